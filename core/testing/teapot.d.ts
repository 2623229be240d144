declare module 'teapot' {
  const teapot: { readonly positions: readonly (readonly [number, number, number])[]; readonly cells: readonly (readonly [number, number, number])[] }
  export default teapot
}
