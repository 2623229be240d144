/** Where a command says what it has to say. */
export interface Output {
  result(line: string): void
  note(line: string): void
}
