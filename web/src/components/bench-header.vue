<script setup lang="ts">
import { NDropdown, type DropdownOption } from 'naive-ui'
import { computed, ref } from 'vue'
import { useBench } from '../bench/use-bench'
import { useDraft } from '../input/draft'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import EquipmentChip from './equipment-chip.vue'
import VersionList from './version-list.vue'
import type { BenchView } from '../router'

defineProps<{ view: BenchView }>()
const emit = defineEmits<{ undo: []; redo: []; help: []; find: [] }>()
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const versionsShown = ref(false)
const planFile = ref<HTMLInputElement | null>(null)

const saved = computed(() => {
  const waits = `${store.waiting} ${store.waiting === 1 ? 'change waits' : 'changes wait'}${store.onlyHere ? ' in this page only' : ''}`
  if (store.saveState === 'saved') return 'Saved'
  if (store.saveState === 'offline') return `Server stopped, ${waits}`
  if (store.saveState === 'gone') return 'Deleted in another tab'
  if (store.saveState === 'stale') return 'Changed in another tab'
  if (store.saveState === 'refused') return `Not saved, ${waits}`
  return 'Saving'
})

const { text: name, reset: resetName } = useDraft(() => store.job?.name ?? '')
function rename(): void {
  const wanted = name.value.trim()
  if (store.job && wanted && wanted !== store.job.name) store.apply({ label: 'rename', set: { name: wanted } })
  else resetName()
}

const exportItems = computed<DropdownOption[]>(() => {
  const several = store.copies.length > 1, part = store.part?.name ?? 'the part'
  return [
    ...(several ? [{ key: 'stl', label: 'Whole plate, STL' }, { key: '3mf', label: 'Whole plate by objects, 3MF' }, { key: 'stilts', label: 'All stilts, STL' }, { key: 'line-1', type: 'divider' }, { key: 'part stl', label: `Only ${part}, STL` }, { key: 'part 3mf', label: `Only ${part}, 3MF` }]
      : [{ key: 'stl', label: 'Model with stilts, STL' }, { key: 'stilts', label: 'Stilts alone, STL' }, { key: '3mf', label: 'Model and stilts as two objects, 3MF' }]),
    { key: 'plan', label: several ? `Plan of ${part}, JSON` : 'Plan of the stilts, JSON' }, { key: 'line-2', type: 'divider' }, { key: 'job', label: 'Whole job, 3MF' }, { key: 'contours', label: 'Contours of all layers, 3MF with slices' }, { key: 'line-3', type: 'divider' }, { key: 'read', label: 'Load a plan' },
  ]
})
function choose(key: string): void {
  const only = key.startsWith('part ')
  if (key === 'read') planFile.value?.click()
  else if (key === 'job') void bench.exportJob()
  else if (key === 'contours') void bench.saveContours()
  else void bench.exportFile((only ? key.slice(5) : key) as 'stl' | 'stilts' | '3mf' | 'plan', only)
}
function takePlan(event: Event): void {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) void bench.readPlan(file)
  input.value = ''
}
</script>

<template>
  <header class="bench-header">
    <h1 class="visually-hidden">{{ store.job?.name ?? 'Oak Stilts' }}</h1>
    <RouterLink to="/jobs" class="mark" title="All jobs"><img src="/mark.svg" alt="" width="22" height="22" />Oak Stilts</RouterLink>
    <input v-if="store.job" v-model="name" class="name" aria-label="Job name" maxlength="120" :style="{ width: `${Math.max(8, store.job.name.length + 1)}ch` }" @change="rename" @keydown.enter="($event.target as HTMLInputElement).blur()" />
    <span class="quiet saved" :class="store.saveState" role="status" aria-label="Saved state" :title="store.onlyHere ? 'This browser has no room to keep them. Leave this page open until they are saved.' : store.saveProblem">{{ saved }}</span>
    <button v-if="store.job" class="link-button" title="Named states of this job, to go back to" @click="versionsShown = true">Versions</button>
    <VersionList v-model:shown="versionsShown" />
    <EquipmentChip />
    <nav aria-label="Views">
      <RouterLink v-if="store.job" :to="`/jobs/${store.job.id}/part`" :class="{ on: view === 'part' }" title="Size and mesh (Shift + 1)">Part</RouterLink>
      <RouterLink v-if="store.job" :to="`/jobs/${store.job.id}/pose`" :class="{ on: view === 'pose' }" title="Lift and tilt (Shift + 2)">Pose</RouterLink>
      <RouterLink v-if="store.job" :to="`/jobs/${store.job.id}/hold`" :class="{ on: view === 'hold' }" title="Find what hangs and hold it (Shift + 3)">Hold <span v-if="state.result" class="figure">{{ state.worklist.open }}</span></RouterLink>
      <RouterLink v-if="store.job" :to="`/jobs/${store.job.id}/proof`" :class="{ on: view === 'proof' }" title="Whether it holds while it is printed (Shift + 4)">Proof</RouterLink>
      <RouterLink v-if="store.job" :to="`/jobs/${store.job.id}/print`" :class="{ on: view === 'print' }" title="Copies, layers and the printer (Shift + 5)">Print</RouterLink>
    </nav>
    <span class="end">
      <button class="link-button" :disabled="!store.undoLabel" :title="store.undoLabel ? `Undo: ${store.undoLabel}` : 'Nothing to undo'" @click="emit('undo')">Undo</button>
      <button class="link-button" :disabled="!store.redoLabel" :title="store.redoLabel ? `Redo: ${store.redoLabel}` : 'Nothing to redo'" @click="emit('redo')">Redo</button>
      <NDropdown trigger="click" :options="exportItems" @select="choose"><button class="plain-button" aria-haspopup="menu">Export</button></NDropdown>
      <button class="link-button" title="All commands (Ctrl/Cmd + K)" @click="emit('find')">Commands</button>
      <button class="link-button" aria-label="Keys and gestures" title="Keys and gestures (?)" @click="emit('help')">?</button>
      <RouterLink to="/jobs" class="jobs">Jobs</RouterLink>
      <input ref="planFile" class="visually-hidden" type="file" accept=".json,application/json" aria-label="Plan file" tabindex="-1" @change="takePlan" />
    </span>
  </header>
</template>

<style scoped>
.bench-header { display: flex; align-items: center; gap: 12px; height: 44px; padding: 0 14px; background: var(--panel); border-bottom: 1px solid var(--divider); white-space: nowrap; }
.mark { display: flex; align-items: center; gap: 6px; color: var(--ink); text-decoration: none; font-weight: 600; }
.name { border: 1px solid transparent; background: none; border-radius: 4px; padding: 2px 4px; min-width: 60px; max-width: 200px; text-overflow: ellipsis; }
.name:hover { border-color: var(--divider); }
.saved { font-size: 12.5px; }
.saved.offline, .saved.stale, .saved.gone, .saved.refused { color: #560f2a; font-weight: 500; }
nav { display: flex; gap: 16px; margin: 0 auto; }
nav a { color: var(--ink); text-decoration: none; padding: 3px 0 2px; border-bottom: 2px solid transparent; }
nav a.on { font-weight: 600; border-color: var(--accent); }
nav .figure { font-size: 12.5px; }
.end { display: flex; align-items: center; gap: 4px; }
.jobs { color: var(--ink); text-decoration: none; padding: 3px 6px; }
</style>
