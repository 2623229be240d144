import js from '@eslint/js'
import { createNodeResolver, importX } from 'eslint-plugin-import-x'
import vue from 'eslint-plugin-vue'
import tseslint from 'typescript-eslint'

/** Who may import whom inside core: a ladder without circles. */
const LADDER = {
  mesh: [],
  contract: [],
  pose: ['mesh', 'contract'],
  hollow: ['mesh'],
  carve: ['mesh'],
  finish: ['mesh', 'pose', 'hollow', 'carve', 'contract'],
  scan: ['mesh', 'pose', 'contract'],
  stilts: ['mesh', 'marks', 'pose', 'contract'],
  plate: ['mesh', 'pose', 'scan', 'contract'],
  marks: ['mesh', 'contract'],
  print: ['mesh', 'pose', 'carve', 'scan', 'contract'],
  forest: ['mesh', 'pose', 'stilts', 'contract'],
  plan: ['mesh', 'marks', 'pose', 'scan', 'stilts', 'forest', 'contract'],
  proof: ['mesh', 'marks', 'pose', 'scan', 'stilts', 'raft', 'contract'],
  ready: ['mesh', 'pose', 'scan', 'stilts', 'raft', 'forest', 'plan', 'proof', 'contract'],
  bed: ['mesh', 'pose', 'stilts', 'contract'],
  spread: ['mesh', 'marks', 'pose', 'stilts', 'bed', 'contract'],
  raft: ['mesh', 'stilts', 'contract'],
  'built-in': ['mesh', 'pose', 'stilts', 'contract'],
  'job-file': ['mesh', 'pose', 'stilts', 'raft', 'contract'],
  tilts: ['mesh', 'marks', 'pose', 'scan', 'print', 'contract'],
}
const rooms = Object.keys(LADDER)
/** The scan by stage: who may import whom there. */
const STAGES = {
  raster: [],
  graph: ['raster'],
  sweeps: ['raster', 'graph'],
  supports: ['raster', 'graph', 'sweeps'],
  reach: ['raster', 'graph', 'supports'],
  findings: ['raster', 'graph', 'sweeps', 'supports', 'reach'],
  pictures: ['raster', 'graph', 'reach'],
}
const stages = Object.keys(STAGES)
const OUTSIDE_CORE = ['@oak-stilts/server*', '@oak-stilts/web*', '@oak-stilts/cli*', '@oak-stilts/demo*', 'express', 'vue', 'kysely', 'libsql', 'node:*', 'fs', 'path', 'three/addons/*']
/** A room as it is written from its neighbours, and from a folder within one. */
const written = room => [`../${room}`, `../../${room}`]
const inside = room => [`../${room}/*`, `../../${room}/*`]
/** What a file of a room, or of a folder within it, must not import. */
const outOfReach = room => [...OUTSIDE_CORE, ...rooms.filter(r => r !== room && !LADDER[room].includes(r)).flatMap(r => [...written(r), ...inside(r)]), ...LADDER[room].flatMap(inside), ...written('testing'), ...inside('testing')]

const forbid = (groups, message) => ({ 'no-restricted-imports': ['error', { patterns: [{ group: groups, message }] }] })

export default tseslint.config(
  { ignores: ['**/dist/**', '**/node_modules/**', 'data/**'] },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  ...vue.configs['flat/essential'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: tseslint.parser } } },
  {
    rules: {
      'no-undef': 'off',
      '@typescript-eslint/no-non-null-assertion': 'error',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      'vue/multi-word-component-names': 'off',
    },
  },
  {
    files: ['{core,server,web,cli,demo}/**/*.ts'], plugins: { 'import-x': importX },
    settings: { 'import-x/resolver-next': [createNodeResolver({ extensions: ['.ts', '.js', '.mjs'] })], 'import-x/parsers': { '@typescript-eslint/parser': ['.ts'] }, 'import-x/extensions': ['.ts'] },
    rules: { 'import-x/no-cycle': 'error' },
  },
  { files: ['core/**/*.ts'], ignores: ['**/*.test.ts'], rules: forbid(OUTSIDE_CORE, 'core is pure computation: no page, no server, no file system.') },
  ...rooms.map(room => ({
    files: [`core/${room}/**/*.ts`], ignores: ['**/*.test.ts'],
    rules: forbid(outOfReach(room), `core/${room} may import only the faces of: ${LADDER[room].join(', ') || 'nothing'}.`),
  })),
  ...stages.map(stage => ({
    files: [`core/scan/${stage}/**/*.ts`], ignores: ['**/*.test.ts'],
    rules: forbid(
      [...outOfReach('scan'), ...stages.filter(s => s !== stage && !STAGES[stage].includes(s)).map(s => `../${s}/*`), '../index', ...(stage === 'pictures' ? [] : ['../model-scan'])],
      `core/scan/${stage} may import only: ${STAGES[stage].join(', ') || 'no other stage'}.`,
    ),
  })),
  { files: ['web/**/*.{ts,vue}'], rules: forbid(['@oak-stilts/server*', '@oak-stilts/cli*', '@oak-stilts/demo*', '**/server/*', '**/cli/*'], 'The page shares only core with the others.') },
  { files: ['server/**/*.ts'], rules: forbid(['@oak-stilts/web*', '@oak-stilts/cli*', 'vue', 'three'], 'The server shares only core and the demo with the others.') },
  { files: ['cli/**/*.ts', 'demo/**/*.ts'], rules: forbid(['@oak-stilts/web*', '@oak-stilts/server*', 'vue', 'express'], 'Command line and demo build on core alone.') },
)
