import { buildTree, findCrossings, NearestTree, type Mesh, type TriangleTree } from '../mesh'
import type { FilledBlocks } from './blocks'
import { frameAround } from './grid-frame'
import { missingBetween, place, setBackAbout, SPARE_MM, type Eye } from './placing'
import type { Corners } from './surface'
import { UnitSearch, type FoundUnit } from './unit-search'
import { WallGrid } from './wall-grid'

/** Crossings of which the places are kept. */
const MOST_CROSSED = 20_000

/** A closed mesh, how thick its wall is to be, and the edge of the cells, mm. */
export interface WallWanted {
  readonly mesh: Mesh
  readonly wallMm: number
  readonly cellMm: number
}
/** What can be asked of a core that works on an inner wall, in this order. Arrays may be handed over with it and come back changed. */
export interface WallTasks {
  /** The wall that is wanted. Tells one half of the tree over its triangles, where one is asked for. */
  readonly begin: { readonly asked: WallWanted & { readonly half: 0 | 1 | null }; readonly told: TriangleTree | null }
  /** The whole tree. */
  readonly tree: { readonly asked: TriangleTree; readonly told: null }
  /** What is in some units of the grid around it. */
  readonly find: { readonly asked: { readonly units: Int32Array }; readonly told: readonly FoundUnit[] }
  /** All that is measured by now. */
  readonly take: { readonly asked: FilledBlocks; readonly told: null }
  /** To bring corners to the wall's distance. */
  readonly place: { readonly asked: Corners; readonly told: Corners }
  /** To set them back by about so much, mm. */
  readonly back: { readonly asked: { readonly of: Corners; readonly by: Float32Array }; readonly told: Corners }
  /** To measure some faces and edges between corners. Tells what is missing of the wall at each, mm. */
  readonly between: { readonly asked: { readonly elements: Int32Array; readonly of: Pick<Corners, 'corners' | 'balls' | 'hints'> }; readonly told: Float32Array }
  /** To find where faces run through each other, of those that a core has to look at. Tells x, y, z of both ends of each segment. */
  readonly cross: { readonly asked: { readonly positions: Float32Array; readonly triangles: Uint32Array }; readonly told: Float32Array }
  /** To forget it all. */
  readonly end: { readonly asked: null; readonly told: null }
}
/** Another core that helps, with one wall at a time. Rejects where it cannot. */
export type WallHelper = <T extends keyof WallTasks>(task: T, asked: WallTasks[T]['asked']) => Promise<WallTasks[T]['told']>

type Answers = { readonly [T in keyof WallTasks]: (asked: WallTasks[T]['asked']) => WallTasks[T]['told'] }
/** Tasks that any core can share in. */
export type Shared = 'find' | 'place' | 'back' | 'between' | 'cross'

/** The work on an inner wall that can be shared out: what is answered depends on what is asked alone, so that it is the same on any core. */
export class WallWork {
  readonly grid: WallGrid
  readonly #search: UnitSearch
  readonly #wallMm: number
  #eye: Eye | null = null

  constructor({ mesh, wallMm, cellMm }: WallWanted) {
    const frame = frameAround(mesh, cellMm), least = wallMm + SPARE_MM
    this.grid = new WallGrid(frame, least)
    this.#search = new UnitSearch(frame, least)
    this.#wallMm = wallMm
  }
  /** Takes the tree over the triangles, without which nothing is seen. */
  see(tree: TriangleTree): void {
    this.#eye = { tree: new NearestTree(tree), grid: this.grid, wallMm: this.#wallMm }
  }
  get eye(): Eye {
    if (!this.#eye) throw new Error('Nothing is seen yet.')
    return this.#eye
  }

  /** @param onProgress the share that is done, 0 to 1 */
  find({ units }: WallTasks['find']['asked'], onProgress?: (share: number) => void): FoundUnit[] {
    return Array.from(units, (unit, n) => {
      onProgress?.(n / units.length)
      return this.#search.find(unit, this.eye.tree)
    })
  }
  /** Does one of the tasks. */
  do<T extends Shared>(task: T, asked: WallTasks[T]['asked']): WallTasks[T]['told'] {
    return this.#tasks[task](asked)
  }
  readonly #tasks: Pick<Answers, Shared> = {
    find: asked => this.find(asked),
    place: of => {
      place(of, this.eye)
      return of
    },
    back: ({ of, by }) => {
      setBackAbout(of, by, this.eye)
      return of
    },
    between: ({ elements, of }) => missingBetween(elements, of, this.eye),
    cross: mesh => findCrossings(mesh, MOST_CROSSED).segments,
  }
}

/** Answers what is asked of a core that helps. */
export function wallHelp(): <T extends keyof WallTasks>(task: T, asked: WallTasks[T]['asked']) => WallTasks[T]['told'] {
  let work: WallWork | null = null
  const own = (): WallWork => {
    if (!work) throw new Error('Nothing was begun.')
    return work
  }
  const answers: Answers = {
    begin: ({ half, ...wanted }) => {
      work = new WallWork(wanted)
      return half === null ? null : buildTree(wanted.mesh, half)
    },
    tree: tree => {
      own().see(tree)
      return null
    },
    take: values => {
      own().grid.values.clear()
      own().grid.values.take(values, from => from)
      return null
    },
    find: asked => own().do('find', asked),
    place: of => own().do('place', of),
    back: asked => own().do('back', asked),
    between: asked => own().do('between', asked),
    cross: mesh => own().do('cross', mesh),
    end: () => (work = null),
  }
  return (task, asked) => answers[task](asked)
}
