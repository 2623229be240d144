/** A grey picture by its runs: what lies between them is black. Rows go from the top down. */
export interface GreyRuns {
  readonly width: number
  readonly height: number
  /** First run of row r at [r]; one past the end at the last entry. */
  readonly starts: Int32Array
  /** First and end pixel of every run; sorted within each row, never overlapping. */
  readonly pairs: Int32Array
  /** What shade each run is, 1 to 255; all of them 255 where left out. */
  readonly shades: Uint8Array | null
}
