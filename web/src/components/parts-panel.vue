<script setup lang="ts">
import { NDropdown, type DropdownOption } from 'naive-ui'
import { computed, nextTick, ref, shallowRef } from 'vue'
import type { Copy, Part } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import { ACCEPTED, BringInStatus } from '../bring-in'
import { evidence } from '../findings'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'

/** Parts of the job and their copies on the plate; the one that is chosen is the one on the bench. */
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const chooser = ref<HTMLInputElement | null>(null)
const renaming = ref<{ copy: string; name: string } | null>(null)
const field = shallowRef<HTMLInputElement[]>([])

interface Row {
  readonly copy: Copy
  readonly part: Part
  /** Its number among the copies of its part; 1 for the first, which stands for the part. */
  readonly number: number
}
const rows = computed<Row[]>(() => store.parts.flatMap(part => store.copies.filter(c => c.part === part.id).map((copy, i) => ({ copy, part, number: i + 1 }))))
const labelOf = ({ part, number }: Row): string => (number === 1 ? part.name : `copy ${number} of ${part.name}`)
/** Whether something of a copy is wrong on the plate. */
const troubled = computed(() => new Set(state.worklist.findings.flatMap(f => evidence(f, 'copies') ?? [])))

function take(event: Event): void {
  const input = event.target as HTMLInputElement
  if (input.files?.length) void bench.addParts([...input.files])
  input.value = ''
}
const choices = (row: Row): DropdownOption[] => [
  ...(row.number === 1 ? [{ key: 'rename', label: 'Rename' }] : []),
  { key: 'copy', label: 'Add a copy on the plate' }, { key: 'duplicate', label: 'Duplicate as its own part' }, { key: 'line', type: 'divider' },
  { key: 'delete', label: row.number === 1 && store.copies.filter(c => c.part === row.part.id).length === 1 ? 'Delete the part' : 'Delete this copy' },
]
async function choose(row: Row, key: string): Promise<void> {
  if (key === 'copy') await bench.addCopy(row.copy)
  else if (key === 'duplicate') await bench.duplicate(row.part, row.copy)
  else if (key === 'delete') bench.removeCopy(row.copy)
  else {
    renaming.value = { copy: row.copy.id, name: row.part.name }
    await nextTick()
    field.value[0]?.select()
  }
}
function rename(row: Row): void {
  if (renaming.value) bench.renamePart(row.part, renaming.value.name)
  renaming.value = null
}
</script>

<template>
  <section class="parts" aria-label="Parts">
    <header>
      <h2>Parts <span class="figure">{{ store.parts.length }}</span></h2>
      <button class="link-button" :disabled="!!bench.bringIn.bringing.value" title="Bring another model into this job; or drop it anywhere" @click="chooser?.click()">Add a part</button>
      <input ref="chooser" class="visually-hidden" type="file" multiple :accept="ACCEPTED" aria-label="File of another part" tabindex="-1" @change="take" />
    </header>
    <BringInStatus :bring-in="bench.bringIn" class="adding" />
    <ul>
      <li v-for="row in rows" :key="row.copy.id" :class="{ on: row.copy.id === store.copy?.id, copy: row.number > 1 }">
        <input v-if="renaming?.copy === row.copy.id" ref="field" v-model="renaming.name" class="name" maxlength="120" aria-label="Part name" @keydown.enter.stop="rename(row)" @keydown.esc.stop="renaming = null" @blur="rename(row)" />
        <button v-else class="name" :aria-current="row.copy.id === store.copy?.id" :title="row.copy.id === store.copy?.id ? 'On the bench' : 'Take it onto the bench'" @click="store.chosenCopy = row.copy.id">{{ row.number === 1 ? row.part.name : `copy ${row.number}` }}<span v-if="row.number > 1" class="visually-hidden"> of {{ row.part.name }}</span></button>
        <span v-if="troubled.has(row.copy.id)" class="trouble" title="Not free on the plate">!<span class="visually-hidden"> not free on the plate</span></span>
        <button v-if="row.number === 1 && row.part.id !== store.part?.id" class="link-button" :aria-label="`${state.hiddenParts.has(row.part.id) ? 'Show' : 'Hide'} ${row.part.name}`" @click="bench.setHidden(row.part, !state.hiddenParts.has(row.part.id))">{{ state.hiddenParts.has(row.part.id) ? 'Show' : 'Hide' }}</button>
        <NDropdown trigger="click" :options="choices(row)" @select="(key: string) => choose(row, key)"><button class="link-button more" :aria-label="`More for ${labelOf(row)}`" aria-haspopup="menu">…</button></NDropdown>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.parts { background: var(--panel); border-right: 1px solid var(--divider); border-bottom: 1px solid var(--divider); padding: 6px 8px 6px 12px; }
header { display: flex; align-items: center; justify-content: space-between; }
h2 { font-size: 13px; font-weight: 600; }
h2 .figure { font-weight: 400; color: var(--quiet); font-size: 12.5px; }
ul { list-style: none; margin: 2px 0 0; padding: 0; max-height: 116px; overflow-y: auto; }
li { display: flex; align-items: center; gap: 4px; min-height: 26px; border-left: 3px solid transparent; padding-left: 5px; }
li.on { border-color: var(--accent); }
li.copy { padding-left: 17px; }
.name { flex: 1; min-width: 0; text-align: left; background: none; border: 0; padding: 2px 0; font: inherit; color: var(--ink); overflow: hidden; text-overflow: ellipsis; white-space: nowrap; cursor: pointer; }
li.on .name { font-weight: 600; }
input.name { border: 1px solid var(--control); border-radius: 4px; padding: 1px 4px; cursor: text; font-weight: 400; }
.trouble { color: #560f2a; font-weight: 700; padding: 0 4px; }
.more { padding: 0 6px; }
.adding { font-size: 12.5px; }
</style>
