<script setup lang="ts">
import { computed } from 'vue'
import { NO_RAFT, type Raft, type RaftKind } from '@oak-stilts/core/contract'
import { radians, volumeOf } from '@oak-stilts/core/mesh'
import { useBench } from '../bench/use-bench'
import NumberField from '../components/number-field.vue'
import { useJobStore } from '../stores/job'

/** What the stilts of this part stand on: its kind, and its sizes on a section through its rim. */
const emit = defineEmits<{ close: [] }>()
const bench = useBench(), store = useJobStore()
const raft = computed<Raft>(() => store.part?.raft ?? NO_RAFT)
const KINDS: readonly { readonly kind: RaftKind; readonly name: string; readonly says: string }[] = [
  { kind: 'none', name: 'None', says: 'Each stilt stands on its own foot.' },
  { kind: 'pads', name: 'Pads', says: 'A bevelled pad under each foot.' },
  { kind: 'joined', name: 'Joined pads', says: 'Pads, and bars between those that stand near to each other: hard to tear off, easy to drain.' },
  { kind: 'plate', name: 'Whole plate', says: 'One plate under all feet, with a bevelled rim and vents so that it does not pull.' },
]
const rows = computed<readonly { readonly name: keyof Raft & `${string}${'Mm' | 'Deg'}`; readonly label: string; readonly min: number; readonly max: number; readonly unit?: string }[]>(() => {
  const { kind } = raft.value
  if (kind === 'none') return []
  return [
    { name: 'thicknessMm', label: 'thickness', min: 0.1, max: 10 }, { name: 'marginMm', label: 'beyond the feet', min: 0, max: 20 }, { name: 'lipDeg', label: 'lip', min: 30, max: 90, unit: '°' },
    ...(kind === 'joined' ? [{ name: 'barMm', label: 'width of bars', min: 0.4, max: 20 }, { name: 'reachMm', label: 'joins up to', min: 1, max: 200 }] as const : []),
    ...(kind === 'plate' ? [{ name: 'ventMm', label: 'vents ⌀', min: 0, max: 20 }, { name: 'ventEveryMm', label: 'every', min: 1, max: 100 }] as const : []),
  ]
})
const isOff = computed(() => raft.value.kind !== 'none' && (store.part?.pose.liftMm ?? 0) <= 0)
const roomMm = computed(() => (store.part?.pose.liftMm ?? 0) - raft.value.thicknessMm)
/** Under this much room a scraper and the resin do not get between part and raft, mm. Our own choice. */
const LITTLE_ROOM_MM = 2
const volume = computed(() => (bench.raftMesh.value ? volumeOf(bench.raftMesh.value) : 0))
/** Section of the rim: px for a mm. */
const SCALE = 22
const section = computed(() => {
  const h = Math.min(44, Math.max(6, raft.value.thicknessMm * SCALE)), inset = raft.value.lipDeg >= 90 ? 0 : h / Math.tan(radians(raft.value.lipDeg))
  return `M10 ${70 - h}H122L${122 - inset} 70H10Z`
})
</script>

<template>
  <section class="raft-sheet" aria-label="Raft">
    <header>
      <strong>Raft</strong>
      <select :value="raft.kind" aria-label="Kind of raft" @change="bench.setRaft({ kind: ($event.target as HTMLSelectElement).value as RaftKind }, 'change the kind of raft')"><option v-for="k in KINDS" :key="k.kind" :value="k.kind">{{ k.name }}</option></select>
      <button class="link-button end" @click="emit('close')">Close</button>
    </header>
    <p class="quiet">{{ KINDS.find(k => k.kind === raft.kind)?.says }}</p>
    <p v-if="isOff" role="status">The part itself stands on the plate, so there is no raft. Lift it in Pose.</p>
    <div v-else-if="raft.kind !== 'none'" class="band">
      <svg width="138" height="86" viewBox="0 0 138 86" aria-hidden="true">
        <path d="M4 70H134" stroke="#857C6B" /><path :d="section" fill="#A8C0BB" stroke="#4A453C" /><path d="M44 8V40L34 52V70H74V52L64 40V8Z" fill="#1D6763" />
      </svg>
      <div><span v-for="r in rows" :key="r.name" class="line"><i>{{ r.label }}</i><NumberField :label="`Raft: ${r.label}`" :unit="r.unit" :digits="r.unit ? 0 : 2" :values="[raft[r.name]]" :min="r.min" :max="r.max" :step="r.unit ? 5 : 0.1" @change="bench.setRaft({ [r.name]: $event[0] })" /></span></div>
    </div>
    <template v-if="!isOff && raft.kind !== 'none'">
      <p v-if="bench.raftFeet.value.length === 0">It appears under the first stilt that stands on the plate.</p>
      <p v-else class="quiet">Under {{ bench.raftFeet.value.length }} {{ bench.raftFeet.value.length === 1 ? 'foot' : 'feet' }}, {{ raft.kind === 'plate' ? '' : 'at most ' }}{{ volume.toFixed(0) }} mm³. The part hangs {{ roomMm.toFixed(2) }} mm above it.</p>
      <p v-if="roomMm < LITTLE_ROOM_MM" role="status">That is little room: lift the part, or make the raft thinner.</p>
    </template>
  </section>
</template>

<style scoped>
.raft-sheet { padding: 8px 10px 12px; }
.raft-sheet p { margin: 6px 0; font-size: 12.5px; }
header { display: flex; align-items: center; gap: 10px; }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 25px; color: var(--ink); }
.end { margin-left: auto; }
.band { display: grid; grid-template-columns: 138px 1fr; align-items: center; white-space: nowrap; }
.line { display: flex; justify-content: flex-end; align-items: center; gap: 6px; height: 27px; }
.line i { font-style: normal; color: var(--quiet); font-size: 12px; }
</style>
