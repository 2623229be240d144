import { NearestTree, type Mesh, type Vec3 } from '../mesh'
import { bodyOf, kernel, type Body } from './kernel'
import { pegsThatFit, placesOn, roomAt, standsOn, type PegSizes } from './pegs'
import { flatOf, type Plane } from './plane'
import { piecesIn, type SectionPiece } from './section'

/** A part on which planes are tried before it is cut: what takes time is done once. It lies in the memory of the library until it is freed. */
export class CutTrial {
  readonly #body: Body
  readonly #mesh: Mesh
  #skin: NearestTree | null = null

  private constructor(mesh: Mesh, body: Body) {
    this.#mesh = mesh
    this.#body = body
  }
  /** @throws CarveError `not-sound` */
  static async of(mesh: Mesh): Promise<CutTrial> {
    return new CutTrial(mesh, bodyOf(await kernel(), mesh))
  }

  /** The pieces in which a plane meets it, largest first. */
  section(plane: Plane): SectionPiece[] {
    return piecesIn(this.#body, plane)
  }
  /** Where pegs can stand in some pieces, as `pegPlaces` has it. */
  places(plane: Plane, pieces: readonly SectionPiece[], sizes: PegSizes, wallMm: number, count: number): Vec3[] {
    return placesOn(this.#near(), plane, pieces, sizes, wallMm, count)
  }
  /** Smaller sizes for which there is room; null where there are none. */
  fitting(plane: Plane, pieces: readonly SectionPiece[], sizes: PegSizes & { readonly wallMm: number }, count: number): (PegSizes & { readonly wallMm: number }) | null {
    return pegsThatFit(this.#near(), plane, pieces, sizes, count)
  }
  /** How far the socket of a peg stays from the skin, mm; below zero where it breaks through; null where the peg stands beside some pieces. */
  room(plane: Plane, pieces: readonly SectionPiece[], at: Vec3, sizes: PegSizes): number | null {
    if (!standsOn(pieces.map(piece => piece.loops.map(loop => loop.map(p => flatOf(plane, p)))), plane, at)) return null
    return roomAt(this.#near(), plane, at, sizes)
  }
  #near(): NearestTree {
    return (this.#skin ??= new NearestTree(this.#mesh))
  }

  free(): void {
    this.#body.manifold.delete()
  }
}
