/** The steps that make a part of its source, in the order in which they are done. */
export const STEPS = [
  { id: 'mend', name: 'Mend', sheet: false, explains: 'What is safe to put right: holes, seams, repeats, what looks the wrong way' },
  { id: 'units', name: 'Units', sheet: true, explains: 'What the numbers of the file stand for' },
  { id: 'scale', name: 'Scale', sheet: true, explains: 'By factor, per cent or wished size' },
  { id: 'mirror', name: 'Mirror', sheet: false, explains: 'Left for right as it stands, its stilts along with it' },
  { id: 'hollow', name: 'Hollow', sheet: true, explains: 'Takes the inside out, down to a wall' },
  { id: 'holes', name: 'Holes', sheet: true, explains: 'Drains and vents, drilled after it was hollowed' },
  { id: 'cut', name: 'Cut', sheet: true, explains: 'In two by a plane, with pegs that put both sides together again' },
] as const
export type StepId = (typeof STEPS)[number]['id']

/** Units that a file may be in, by their millimetres. */
export const UNITS: readonly { readonly mm: number; readonly name: string; readonly short: string }[] = [
  { mm: 1, name: 'Millimetres', short: 'mm' },
  { mm: 10, name: 'Centimetres', short: 'cm' },
  { mm: 25.4, name: 'Inches', short: 'inches' },
  { mm: 304.8, name: 'Feet', short: 'feet' },
  { mm: 1000, name: 'Metres', short: 'metres' },
  { mm: 0.001, name: 'Microns', short: 'microns' },
]

export function unitName(mm: number): string {
  return UNITS.find(u => u.mm === mm)?.short ?? `${mm} mm`
}
