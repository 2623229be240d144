import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import type { ScanResult } from '@oak-stilts/core/scan'
import { worklistOf } from './findings'
import { useJobStore } from './job'

export type Tool = 'select' | 'place'
export type ScanState = 'none' | 'scanning' | 'fresh' | 'cancelled' | 'failed'

/** What the bench shows: the last scan, the playhead, the selection, the tool. Nothing of it is stored. */
export const useBenchStore = defineStore('bench', () => {
  const job = useJobStore()
  const result = shallowRef<ScanResult | null>(null)
  const scanState = ref<ScanState>('none')
  const progress = ref(0)
  const message = ref('')
  const playhead = ref(0)
  const selectedStilts = ref<readonly number[]>([])
  const selectedFinding = ref<string | null>(null)
  const tool = ref<Tool>('select')
  const gauge = ref('medium')
  const verdict = ref('')
  const cutAway = ref(false)
  const showSettled = ref(false)
  /** What is under way and can be cancelled, in words; empty for nothing. */
  const busy = ref('')

  const worklist = computed(() => worklistOf(result.value, job.stilts))
  const shown = computed(() => worklist.value.findings.filter(f => showSettled.value || f.state === 'open'))
  const finding = computed(() => worklist.value.findings.find(f => f.key === selectedFinding.value) ?? null)
  const openIslands = computed(() => worklist.value.findings.filter(f => f.kind === 'island' && f.state === 'open'))
  /** Layers up to the last one that has material; a point thinner than a pixel may leave empty ones above. */
  const layerCount = computed(() => {
    const r = result.value
    if (!r) return 0
    let n = r.layerCount
    while (n > 1 && r.areaMm2[n - 1] === 0) n--
    return n
  })

  function setPlayhead(layer: number): void {
    playhead.value = Math.max(0, Math.min(layerCount.value - 1, Math.round(layer)))
  }

  function reset(): void {
    result.value = null
    scanState.value = 'none'
    selectedStilts.value = []
    selectedFinding.value = null
    tool.value = 'select'
    verdict.value = ''
    busy.value = ''
    cutAway.value = false
    playhead.value = 0
  }

  return { result, scanState, progress, message, playhead, selectedStilts, selectedFinding, tool, gauge, verdict, cutAway, showSettled, busy, worklist, shown, finding, openIslands, layerCount, setPlayhead, reset }
})
