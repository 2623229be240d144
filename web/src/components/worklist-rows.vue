<script setup lang="ts">
import { NVirtualList } from 'naive-ui'
import { computed, nextTick, ref, watch } from 'vue'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { FINDING_KINDS, groupsOf, kindOf, sumOf, STATE_NAMES, type Finding, type FindingGroup } from '../findings'
import FindingSymbol from './finding-symbol.vue'

/** Findings in groups that fold; only the rows in view are drawn. */
const bench = useBench(), state = useBenchStore()
const folded = ref<ReadonlySet<string>>(new Set())
const list = ref<InstanceType<typeof NVirtualList> | null>(null)

type Row =
  | { readonly key: string; readonly group: FindingGroup }
  | { readonly key: string; readonly finding: Finding }
  | { readonly key: string; readonly note: { readonly kind: Finding['kind']; readonly name: string; readonly count: number; readonly area?: string; readonly explains: string } }

const rows = computed<Row[]>(() => {
  const out: Row[] = []
  for (const group of groupsOf(state.shown)) {
    out.push({ key: `group ${group.key}`, group })
    if (!folded.value.has(group.key)) for (const finding of group.findings) out.push({ key: finding.key, finding })
  }
  const f = state.result?.folded
  const note = (kind: Finding['kind'], name: string, count: number, explains: string, mm2?: number): void => {
    if (count > 0) out.push({ key: `note ${name}`, note: { kind, name, count, explains, area: mm2 !== undefined && mm2 >= 0.005 ? `${mm2.toFixed(2)} mm²` : undefined } })
  }
  for (const [kind, count] of state.worklist.folded) {
    const { folded: row } = FINDING_KINDS[kind]
    if (row) note(kind, row.name, count, row.explains, kind === 'island' ? f?.flakesMm2 : undefined)
  }
  note('ledge', 'Too small to list', f?.smallPlaces ?? 0, 'Places out of reach that are smaller than the limit from which ledges are listed, and what they come to.', f?.smallMm2)
  return out
})
function toggle(group: FindingGroup): void {
  const next = new Set(folded.value)
  if (!next.delete(group.key)) next.add(group.key)
  folded.value = next
}
const titleOf = (f: Finding): string => kindOf(f).title?.(f) ?? f.name
const describe = (f: Finding): string => `${titleOf(f)}, ${f.figure}, layer ${f.layer + 1}, ${STATE_NAMES[f.state]}`

watch(() => state.selectedFinding, async key => {
  if (!key) return
  const group = groupsOf(state.shown).find(g => g.findings.some(f => f.key === key))
  if (group && folded.value.has(group.key)) toggle(group)
  await nextTick()
  const index = rows.value.findIndex(r => r.key === key)
  if (index >= 0) list.value?.scrollTo({ index, behavior: 'auto' })
})
</script>

<template>
  <div class="box" role="listbox" aria-label="Findings" aria-multiselectable="true" tabindex="0">
    <NVirtualList ref="list" class="list" :items="rows" :item-size="28" key-field="key">
      <template #default="{ item: row }: { item: Row }">
        <div v-if="'group' in row" class="row group" role="option" aria-selected="false" tabindex="0" @click="toggle(row.group)" @keydown.enter.stop="toggle(row.group)" @keydown.space.stop.prevent="toggle(row.group)">
          <span class="arrow" aria-hidden="true">{{ folded.has(row.group.key) ? '▸' : '▾' }}</span><span class="name">{{ row.group.plural }} <span class="figure count">{{ row.group.findings.length }}</span><span class="visually-hidden"> {{ folded.has(row.group.key) ? 'folded' : 'unfolded' }}</span></span><span class="figure quiet">{{ sumOf(row.group) }}</span>
        </div>
        <div v-else-if="'finding' in row" class="row" role="option" :class="{ chosen: state.chosenFindings.includes(row.finding.key) }" :aria-selected="row.finding.key === state.selectedFinding || state.chosenFindings.includes(row.finding.key)" :title="bench.whyNotHeld(row.finding) ?? describe(row.finding)" @click="$event.shiftKey ? bench.chooseFinding(row.finding.key) : bench.goTo(row.finding)">
          <FindingSymbol :kind="row.finding.kind" :state="row.finding.state" />
          <span class="figure main"><span class="visually-hidden">{{ titleOf(row.finding) }}, </span>{{ row.finding.figure }}</span>
          <span class="figure layer"><span class="visually-hidden"> layer </span>{{ row.finding.layer + 1 }}<span class="visually-hidden"> {{ STATE_NAMES[row.finding.state] }}</span></span>
        </div>
        <div v-else class="row folded" role="option" aria-selected="false" :title="row.note.explains">
          <FindingSymbol :kind="row.note.kind" state="settled" />
          <span class="name">{{ row.note.name }}</span>
          <span class="figure layer"><span class="visually-hidden"> {{ row.note.area ? row.note.count : "" }} </span>{{ row.note.area ?? row.note.count }}</span>
        </div>
      </template>
    </NVirtualList>
  </div>
</template>

<style scoped>
.box { flex: 1; min-height: 0; padding: 0 4px; outline-offset: -2px; }
.list { height: 100%; }
.row { display: grid; grid-template-columns: 16px 1fr auto; gap: 8px; align-items: center; width: 100%; height: 28px; padding: 0 12px 0 6px; border: 0; border-bottom: 1px solid #ece6d9; cursor: pointer; font-size: 12.5px; background: none; text-align: left; user-select: none; }
.row:hover { background: #f6f1e6; }
.row[aria-selected='true'] { background: #f0e6d4; box-shadow: inset 2px 0 0 var(--accent); }
.row.chosen { background: #f6eee0; font-weight: 600; }
.name { white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.main { font-size: 12px; }
.layer { text-align: right; color: var(--quiet); font-size: 12px; }
.group { font-weight: 600; background: #faf6ec; }
.group .figure { font-size: 12px; font-weight: 400; }
.count { margin-left: 3px; }
.arrow { color: var(--quiet); font-size: 11px; text-align: center; }
.folded { cursor: default; color: var(--quiet); }
</style>
