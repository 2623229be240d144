/** Parts as their recipes made them are kept in the browser, so that a job that is opened again need not wait for what was done before. */
const STORE = 'made-parts'
/** So many are kept, the last ones that were used. */
const MOST_KEPT = 8

/** @param key what a mesh is known by */
function pathOf(key: string): Promise<string> {
  return crypto.subtle.digest('SHA-256', new TextEncoder().encode(key)).then(hash => `/made-parts/${Array.from(new Uint8Array(hash), b => b.toString(16).padStart(2, '0')).join('')}`)
}

/** A mesh that was made before and what was told of it; null where it is not kept, or the browser keeps nothing. */
export async function madeBefore<T>(key: string): Promise<{ buffer: ArrayBuffer; told: T } | null> {
  try {
    const store = await caches.open(STORE), path = await pathOf(key), found = await store.match(path)
    if (!found) return null
    const buffer = await found.arrayBuffer(), told = JSON.parse(decodeURIComponent(found.headers.get('X-Told') ?? '')) as T
    // put again, it is the youngest
    await keep(store, path, buffer, told)
    return { buffer, told }
  } catch {
    return null
  }
}

/** Keeps a mesh as it was made. Where the browser has no room it is not kept. */
export async function keepMade(key: string, buffer: ArrayBuffer, told: unknown): Promise<void> {
  try {
    await keep(await caches.open(STORE), await pathOf(key), buffer, told)
  } catch {
    // it is made again next time
  }
}

async function keep(store: Cache, path: string, buffer: ArrayBuffer, told: unknown): Promise<void> {
  await store.delete(path)
  await store.put(path, new Response(buffer, { headers: { 'X-Told': encodeURIComponent(JSON.stringify(told)) } }))
  const all = await store.keys()
  await Promise.all(all.slice(0, Math.max(0, all.length - MOST_KEPT)).map(old => store.delete(old)))
}
