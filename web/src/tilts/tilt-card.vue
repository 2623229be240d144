<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import type { TiltAngles } from '@oak-stilts/core/pose'
import { keyOf, whyOf, type TiltMeasures } from '@oak-stilts/core/tilts'
import { useBench } from '../bench/use-bench'
import { useJobStore } from '../stores/job'
import { CARD_PICTURE } from '../bench/tilting'
import { figuresOf, tiltText } from './words'

/** One tilt that is offered: how it looks, why it is better, its figures. A click tilts the part so. */
const props = defineProps<{ letter: string; tilt: TiltAngles; measures: TiltMeasures | null; best?: boolean }>()
const { tilts, takeTilt, turnFor, worths } = useBench(), store = useJobStore()
const canvas = ref<HTMLCanvasElement | null>(null)
const rgba = computed(() => tilts.pictures.value.get(keyOf(props.tilt)))
const isCoarse = computed(() => props.measures?.ledgesMm2 === null)
const why = computed(() => {
  const now = tilts.measuresNow.value
  // full figures are not set against coarse ones
  return props.measures && now && (now.ledgesMm2 !== null || isCoarse.value) ? whyOf(props.measures, now, worths.value?.includes(1) ?? false) : ''
})
/** What has to be known of its room on the plate. */
const room = computed(() => {
  const now = store.copy?.turnDeg ?? 0, turn = turnFor(props.tilt)
  return turn === null ? 'Too large for the printer as a whole.' : turn !== now ? `Turned to ${turn.toFixed(0)}° to fit the plate.` : ''
})
function draw(): void {
  const bytes = rgba.value, element = canvas.value
  if (!bytes || !element) return
  const width = Math.round(Math.sqrt((bytes.length / 4) * (CARD_PICTURE.width / CARD_PICTURE.height)))
  element.width = width
  element.height = bytes.length / 4 / width
  element.getContext('2d', { willReadFrequently: true })?.putImageData(new ImageData(new Uint8ClampedArray(bytes), width, element.height), 0, 0)
}
onMounted(draw)
watch(rgba, draw, { flush: 'post' })
const point = (on: boolean): void => {
  tilts.pointed.value = on ? props.tilt : null
}
</script>

<template>
  <button class="tilt-card" :title="`Tilt the part so: ${tiltText(tilt)}`" @click="takeTilt(tilt)" @pointerenter="point(true)" @pointerleave="point(false)" @focus="point(true)" @blur="point(false)">
    <span class="picture"><canvas v-if="rgba" ref="canvas" aria-hidden="true" /><b class="letter">{{ letter }}</b></span>
    <span class="words">
      <span v-if="best" class="best">Best of these</span>
      <span class="why">{{ why || tiltText(tilt) }}</span>
      <span v-if="measures" class="figures quiet">{{ figuresOf(measures) }}</span>
      <span v-if="room" class="quiet">{{ room }}</span>
      <span v-if="isCoarse || !measures" class="quiet coarse">{{ measures ? 'Coarse: not scanned in full yet' : 'Being scanned' }}</span>
    </span>
  </button>
</template>

<style scoped>
.tilt-card { display: grid; grid-template-columns: 84px 1fr; gap: 10px; width: 100%; padding: 8px 12px; background: none; border: 0; border-bottom: 1px solid #ece6d9; text-align: left; cursor: pointer; }
.tilt-card:hover, .tilt-card:focus-visible { background: #f6f1e6; }
.picture { position: relative; width: 84px; height: 64px; background: var(--paper); border: 1px solid var(--divider); border-radius: 3px; overflow: hidden; }
canvas { width: 100%; height: 100%; display: block; }
.letter { position: absolute; left: 3px; top: 3px; min-width: 18px; padding: 0 4px; border-radius: 3px; background: var(--panel); border: 1px solid var(--ink); font: 600 12px/16px var(--mono); text-align: center; }
.words { display: grid; gap: 3px; align-content: start; font-size: 12.5px; line-height: 1.35; }
.best { font-weight: 600; color: var(--accent); }
.figures { font: 400 11.5px/1.4 var(--mono); }
.coarse { font-style: italic; }
</style>
