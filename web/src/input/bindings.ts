/** What a key or gesture does: one table for the handlers and for the sheet that explains them. */
export interface Binding {
  readonly id: string
  /** Keys as the browser names them, with `Shift+` or `Mod+` (Ctrl or Cmd) in front; none for a gesture of the pointer. */
  readonly keys: readonly string[]
  /** How the sheet shows it. */
  readonly shown: string
  readonly does: string
  readonly group: 'Pointer' | 'View' | 'Pose' | 'Layers' | 'Findings' | 'Stilts' | 'Proof' | 'Print' | 'Everywhere'
  /** Works while typing in a field too. */
  readonly always?: boolean
}

const NUDGES = ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown'].flatMap(a => [`t+${a}`, `t+Shift+${a}`])

export const BINDINGS: readonly Binding[] = [
  { id: 'pointer-click', keys: [], shown: 'Left click', does: 'Act: select, or place in Place', group: 'Pointer' },
  { id: 'pointer-drag', keys: [], shown: 'Left drag', does: 'Drag a handle, tip, foot or ring (Shift tenths, Ctrl steps of 5°); elsewhere turn the view', group: 'Pointer' },
  { id: 'pointer-turn', keys: [], shown: 'Right drag', does: 'Turn the view', group: 'Pointer' },
  { id: 'pointer-pan', keys: [], shown: 'Middle drag', does: 'Pan', group: 'Pointer' },
  { id: 'pointer-zoom', keys: [], shown: 'Wheel, pinch', does: 'Zoom to the pointer', group: 'Pointer' },
  { id: 'pointer-add', keys: [], shown: 'Shift + click', does: 'Add to the selection', group: 'Pointer' },
  { id: 'pointer-layer', keys: [], shown: 'Shift + wheel', does: 'Move the playhead by a layer; while spreading, the spacing', group: 'Pointer' },
  { id: 'view-part', keys: ['Shift+1'], shown: 'Shift + 1', does: 'Part', group: 'View' },
  { id: 'view-pose', keys: ['Shift+2'], shown: 'Shift + 2', does: 'Pose', group: 'View' },
  { id: 'view-hold', keys: ['Shift+3'], shown: 'Shift + 3', does: 'Hold', group: 'View' },
  { id: 'view-proof', keys: ['Shift+4'], shown: 'Shift + 4', does: 'Proof', group: 'View' },
  { id: 'view-print', keys: ['Shift+5'], shown: 'Shift + 5', does: 'Print', group: 'View' },
  { id: 'lay-out', keys: ['Alt+l'], shown: 'Alt + L', does: 'Lay the copies out on the plate', group: 'Print' },
  { id: 'slice', keys: ['Alt+Enter'], shown: 'Alt + Enter', does: 'Slice into a package of layers', group: 'Print' },
  { id: 'find-tilt', keys: ['i'], shown: 'I', does: 'Find a tilt', group: 'Pose' },
  { id: 'tool-lay', keys: ['a'], shown: 'A', does: 'Lay a face down, or stand on an edge', group: 'Pose' },
  { id: 'tool-square', keys: ['q'], shown: 'Q', does: 'Square a face or an edge up to the plate', group: 'Pose' },
  { id: 'tool-mark', keys: ['m'], shown: 'M', does: 'Mark faces; then 1 prized, 2 spare, 3 off-limits, 0 plain', group: 'Pose' },
  { id: 'mark-seen', keys: ['Shift+m'], shown: 'Shift + M', does: 'Mark all that is seen from here', group: 'Pose' },
  { id: 'stand-upright', keys: ['u'], shown: 'U', does: 'Stand upright: the part, and in Hold the selected stilts', group: 'Pose' },
  { id: 'lift-up', keys: ['PageUp'], shown: 'Page up', does: 'Lift by 0.5 mm', group: 'Pose' },
  { id: 'lift-down', keys: ['PageDown'], shown: 'Page down', does: 'Lower by 0.5 mm', group: 'Pose' },
  { id: 'tilt-x-up', keys: [']'], shown: ']', does: 'Tilt about x by 1°', group: 'Pose' },
  { id: 'tilt-x-down', keys: ['['], shown: '[', does: 'Tilt about x by −1°', group: 'Pose' },
  { id: 'tilt-y-up', keys: ['Shift+}', '}'], shown: 'Shift + ]', does: 'Tilt about y by 1°', group: 'Pose' },
  { id: 'tilt-y-down', keys: ['Shift+{', '{'], shown: 'Shift + [', does: 'Tilt about y by −1°', group: 'Pose' },
  { id: 'move-right', keys: ['Alt+ArrowRight'], shown: 'Alt + →', does: 'Move on the plate by 1 mm, right; in Hold, a peg bed or a stroke', group: 'Pose' },
  { id: 'move-left', keys: ['Alt+ArrowLeft'], shown: 'Alt + ←', does: 'The same, left', group: 'Pose' },
  { id: 'move-back', keys: ['Alt+ArrowUp'], shown: 'Alt + ↑', does: 'The same, back', group: 'Pose' },
  { id: 'move-front', keys: ['Alt+ArrowDown'], shown: 'Alt + ↓', does: 'The same, front', group: 'Pose' },
  { id: 'view-standard', keys: ['o'], shown: 'O', does: 'Next standard view', group: 'View' },
  { id: 'cut-away', keys: ['x'], shown: 'X', does: 'Cut away what is above the playhead', group: 'View' },
  { id: 'cut-below', keys: ['Shift+x'], shown: 'Shift + X', does: 'Cut away what is below the playhead', group: 'View' },
  { id: 'cut-slab', keys: ['Alt+x'], shown: 'Alt + X', does: 'Show only a slab under the playhead', group: 'View' },
  { id: 'see-through', keys: ['d'], shown: 'D', does: 'See through the nearest wall: the pointer reaches what is behind it', group: 'View' },
  { id: 'from-below', keys: ['Shift+o'], shown: 'Shift + O', does: 'Look from below with the stilts faint, and back', group: 'View' },
  { id: 'steep-skin', keys: ['v'], shown: 'V', does: 'Tint steep skin', group: 'View' },
  { id: 'layer-line', keys: ['Shift+v'], shown: 'Shift + V', does: 'Outline of the layer under the pointer', group: 'View' },
  { id: 'show-findings', keys: ['Alt+v'], shown: 'Alt + V', does: 'Show or hide the findings on the model', group: 'View' },
  { id: 'signals-table', keys: ['y'], shown: 'Y', does: 'Signals of all layers as a table', group: 'Layers' },
  { id: 'layer-up', keys: ['ArrowRight'], shown: '→', does: 'Next layer', group: 'Layers' },
  { id: 'layer-down', keys: ['ArrowLeft'], shown: '←', does: 'Layer before', group: 'Layers' },
  { id: 'layer-up-10', keys: ['Shift+ArrowRight'], shown: 'Shift + →', does: 'Ten layers on', group: 'Layers' },
  { id: 'layer-down-10', keys: ['Shift+ArrowLeft'], shown: 'Shift + ←', does: 'Ten layers back', group: 'Layers' },
  { id: 'layer-first', keys: ['Home'], shown: 'Home', does: 'First layer', group: 'Layers' },
  { id: 'layer-last', keys: ['End'], shown: 'End', does: 'Last layer', group: 'Layers' },
  { id: 'jump-next', keys: ['.'], shown: '.', does: 'Next layer in which a signal jumps', group: 'Layers' },
  { id: 'jump-previous', keys: [','], shown: ',', does: 'Such a layer before', group: 'Layers' },
  { id: 'finding-next', keys: ['n'], shown: 'N', does: 'Next finding', group: 'Findings' },
  { id: 'finding-previous', keys: ['Shift+n'], shown: 'Shift + N', does: 'Finding before', group: 'Findings' },
  { id: 'row-down', keys: ['ArrowDown'], shown: '↓', does: 'Next row of the list; while spreading, closer; a peg bed turns', group: 'Findings' },
  { id: 'row-up', keys: ['ArrowUp'], shown: '↑', does: 'Row before; while spreading, wider', group: 'Findings' },
  { id: 'hold-this', keys: ['Enter'], shown: 'Enter', does: 'Hold this finding; with Branch, Stick, Line, Edge or Face in hand, with that', group: 'Findings' },
  { id: 'hold-all', keys: ['h'], shown: 'H', does: 'Hold open islands', group: 'Findings' },
  { id: 'hold-ledges', keys: ['Shift+h'], shown: 'Shift + H', does: 'Hold open islands and ledges', group: 'Findings' },
  { id: 'plan-all', keys: ['Alt+h'], shown: 'Alt + H', does: 'Plan all: tips under all that hangs, gathered on trunks', group: 'Findings' },
  { id: 'choose-finding', keys: ['Shift+Enter'], shown: 'Shift + Enter', does: 'Take this finding to those that the next plan is for; so does Shift + click in the list', group: 'Findings' },
  { id: 'tool-pick', keys: ['Alt+f'], shown: 'Alt + F', does: 'Pick faces that the next plan is for', group: 'Findings' },
  { id: 'plan-options', keys: ['Alt+p'], shown: 'Alt + P', does: 'What a plan is asked for, and recipes', group: 'Findings' },
  { id: 'compare', keys: ['Alt+c'], shown: 'Alt + C', does: 'Compare plans of this part', group: 'Findings' },
  { id: 'optimise', keys: ['Alt+o'], shown: 'Alt + O', does: 'Optimise the stilts that stand', group: 'Findings' },
  { id: 'waive', keys: ['w'], shown: 'W', does: 'Waive this finding, or take the waiver back', group: 'Findings' },
  { id: 'tool-place', keys: ['p'], shown: 'P', does: 'Place stilts', group: 'Stilts' },
  { id: 'tool-stick', keys: ['l'], shown: 'L', does: 'Stick between two points of the part', group: 'Stilts' },
  { id: 'tool-branch', keys: ['s'], shown: 'S', does: 'Branch from a stilt; a drag places several', group: 'Stilts' },
  { id: 'tool-brace', keys: ['c'], shown: 'C', does: 'Brace the selected stilts; with fewer than two, brace by two clicks', group: 'Stilts' },
  { id: 'join', keys: ['j'], shown: 'J', does: 'Join the selected stilts as high as possible', group: 'Stilts' },
  { id: 'prop', keys: ['Shift+j'], shown: 'Shift + J', does: 'Prop up the selected leaning stilts', group: 'Stilts' },
  { id: 'gather', keys: ['Shift+s'], shown: 'Shift + S', does: 'Gather the selected stilts on a stem in their middle, of the chosen gauge', group: 'Stilts' },
  { id: 'raft', keys: ['Shift+r'], shown: 'Shift + R', does: 'Raft: what the stilts stand on', group: 'Stilts' },
  { id: 'force-place', keys: ['Mod+Enter'], shown: 'Ctrl/Cmd + Enter', does: 'Place by force, against advice', group: 'Stilts' },
  { id: 'tool-line', keys: ['r'], shown: 'R', does: 'Spread along a line', group: 'Stilts' },
  { id: 'tool-edge', keys: ['e'], shown: 'E', does: 'Spread along an edge or a border', group: 'Stilts' },
  { id: 'tool-face', keys: ['f'], shown: 'F', does: 'Spread over a face', group: 'Stilts' },
  { id: 'tool-strokes', keys: ['b'], shown: 'B', does: 'Spread by strokes', group: 'Stilts' },
  { id: 'tool-bed', keys: ['Shift+b'], shown: 'Shift + B', does: 'Peg bed: drop a pattern of pegs under the part', group: 'Stilts' },
  { id: 'gauge', keys: ['1', '2', '3', '4', '5', '6', '7', '8', '9'], shown: '1 to 9', does: 'Take a gauge by its place in the list', group: 'Stilts' },
  { id: 'gauge-sizes', keys: ['Shift+g'], shown: 'Shift + G', does: 'Sizes of the gauge', group: 'Stilts' },
  { id: 'nudge', keys: NUDGES, shown: 'T and arrows', does: 'Nudge the tip by 0.05 mm, with Shift 0.5', group: 'Stilts' },
  { id: 'delete', keys: ['Delete', 'Backspace'], shown: 'Delete', does: 'Delete the selected stilts', group: 'Stilts' },
  { id: 'select-area', keys: ['g'], shown: 'G', does: 'Select by a box, again by a lasso; Shift adds, Ctrl takes away', group: 'Stilts' },
  { id: 'select-all', keys: ['Mod+a'], shown: 'Ctrl/Cmd + A', does: 'Select all stilts', group: 'Stilts' },
  { id: 'make-ready', keys: ['Shift+k'], shown: 'Shift + K', does: 'Make ready: hold, brace, repair and prove in one go', group: 'Proof' },
  { id: 'prove', keys: ['Shift+p'], shown: 'Shift + P', does: 'Prove that the part holds', group: 'Proof' },
  { id: 'undo', keys: ['Mod+z'], shown: 'Ctrl/Cmd + Z', does: 'Undo', group: 'Everywhere', always: true },
  { id: 'redo', keys: ['Mod+Shift+z', 'Mod+y'], shown: 'Ctrl/Cmd + Shift + Z', does: 'Redo', group: 'Everywhere', always: true },
  { id: 'command', keys: ['Mod+k'], shown: 'Ctrl/Cmd + K', does: 'Find a command', group: 'Everywhere', always: true },
  { id: 'escape', keys: ['Escape'], shown: 'Esc', does: 'One step back: drag, tool, work under way, selection', group: 'Everywhere', always: true },
  { id: 'help', keys: ['?', 'Shift+?'], shown: '?', does: 'This sheet', group: 'Everywhere' },
]

/** The name of a key press as the table writes it. */
export function pressOf(event: KeyboardEvent): string {
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key
  const digit = event.shiftKey && /^Digit\d$/.test(event.code) ? event.code.slice(5) : key
  return `${event.ctrlKey || event.metaKey ? 'Mod+' : ''}${event.altKey ? 'Alt+' : ''}${event.shiftKey ? 'Shift+' : ''}${digit}`
}

/** The binding that a key press stands for, or null. Letters are for fields while one has the focus. `nudging` while T is held. */
export function bindingFor(event: KeyboardEvent, nudging = false): Binding | null {
  const target = event.target as HTMLElement | null
  const typing = !!target?.closest?.('input, textarea, select, [contenteditable]')
  const press = (nudging && event.key.startsWith('Arrow') ? 't+' : '') + pressOf(event)
  const found = BINDINGS.find(b => b.keys.includes(press))
  if (!found || (typing && !found.always)) return null
  // a focused button keeps Enter for itself, an open menu or dialog its arrows
  if (press === 'Enter' && target?.closest('button, a, [role=option], [role=menuitem]')) return null
  if (press !== 'Escape' && target?.closest('[role=menu], [role=dialog], .n-modal')) return null
  return found
}
