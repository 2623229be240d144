/** The colours of the bench: pale paper, ink lines, one warm accent. */
export const PALETTE = {
  paper: '#F7F4ED', panel: '#FFFDF8', divider: '#D9D2C3', control: '#857C6B', ink: '#24211C', quiet: '#6A6254', accent: '#8A5A1F',
  stilt: '#1D6763', stone: '#C9C2B4', beside: '#E4DED1', besideStilt: '#A8C0BB', stoneShade: '#7D776B', silhouette: '#4A453C', island: '#1A36A8', cup: '#3A4A1A', ledge: '#6E2A78', scar: '#560F2A',
} as const
