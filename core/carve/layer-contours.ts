import type { CrossSection, Manifold } from 'manifold-3d'
import type { Mesh } from '../mesh'
import { bodyOf, kernel } from './kernel'
import type { FlatLoops } from './loops'

/** The contours of bodies at heights: what all of them cover together, exact but for a tolerance. They lie in the memory of a library until they are ended. */
export class LayerContours {
  readonly #bodies: readonly { readonly manifold: Manifold; readonly low: number; readonly high: number }[]
  readonly #unite: (sections: readonly CrossSection[]) => CrossSection

  private constructor(bodies: readonly { readonly manifold: Manifold; readonly low: number; readonly high: number }[], unite: (sections: readonly CrossSection[]) => CrossSection) {
    this.#bodies = bodies
    this.#unite = unite
  }

  /** @throws CarveError `not-sound` where one of them is not closed */
  static async of(meshes: readonly Mesh[]): Promise<LayerContours> {
    const wasm = await kernel(), bodies: { manifold: Manifold; low: number; high: number }[] = []
    try {
      for (const mesh of meshes) {
        let low = Infinity, high = -Infinity
        for (let i = 2; i < mesh.positions.length; i += 3) {
          low = Math.min(low, mesh.positions[i])
          high = Math.max(high, mesh.positions[i])
        }
        if (high > low) bodies.push({ manifold: bodyOf(wasm, mesh).manifold, low, high })
      }
    } catch (error) {
      for (const b of bodies) b.manifold.delete()
      throw error
    }
    return new LayerContours(bodies, sections => wasm.CrossSection.union([...sections]))
  }

  /** Loops at a height, outer ones counter-clockwise, holes the other way. @param within how far points may be moved, mm */
  at(zMm: number, within: number): FlatLoops {
    const own: CrossSection[] = []
    for (const { manifold, low, high } of this.#bodies) if (zMm > low && zMm < high) own.push(manifold.slice(zMm))
    if (own.length === 0) return []
    const united = own.length === 1 ? own[0] : this.#unite(own), simple = united.simplify(within), loops = simple.toPolygons() as FlatLoops
    for (const s of new Set([...own, united, simple])) s.delete()
    return loops
  }

  end(): void {
    for (const b of this.#bodies) b.manifold.delete()
  }
}
