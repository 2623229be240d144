<script setup lang="ts">
import { computed, onBeforeUnmount } from 'vue'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import NumberField from './number-field.vue'
import SoundNote from './sound-note.vue'

/** Cuts that the part comes from, and one that is being set. */
const bench = useBench(), state = useBenchStore()
const { draft, seen, lit, cuts, cannot } = bench.cutting
onBeforeUnmount(() => bench.endCut())

/** Pieces that are listed at once, largest first. */
const MOST_LISTED = 12
const pieces = computed(() => (seen.value?.pieces ?? []).slice(0, MOST_LISTED))
const pegs = computed(() => draft.value?.pegs ?? null)
const withPegs = computed(() => !!pegs.value && (pegs.value.count > 0 || pegs.value.at !== null))
function take(tool: 'cut-points' | 'cut-pegs'): void {
  state.tool = state.tool === tool ? 'select' : tool
}
const SIZES = [
  { key: 'diameterMm', name: 'Diameter', min: 0.5, max: 50, step: 0.5 }, { key: 'endDiameterMm', name: 'At its end', min: 0.5, max: 50, step: 0.1 }, { key: 'depthMm', name: 'Length', min: 0.5, max: 100, step: 0.5 },
  { key: 'clearanceMm', name: 'Gap around it', min: 0, max: 2, step: 0.05 }, { key: 'wallMm', name: 'Wall beside it', min: 0.1, max: 20, step: 0.1 },
] as const
</script>

<template>
  <section class="cut-sheet" aria-label="Cut">
    <h2>Cut</h2>
    <SoundNote />
    <template v-if="!draft">
      <p v-if="cuts.length === 0" class="quiet">A plane parts it in two. Both sides are parts of this job then, each with the stilts and marks that are on it, and can be posed by itself.</p>
      <ul v-else>
        <li v-for="(c, i) in cuts" :key="c.id" :aria-label="`Cut ${i + 1}`">
          <span>{{ bench.otherSide(c) ? `From ${bench.otherSide(c)?.name}` : 'Its other side is not in this job' }}</span>
          <div v-if="i === cuts.length - 1" class="line"><button class="link-button" @click="bench.beginCut(c)">Set it anew</button><button class="link-button" :disabled="!!state.busy" @click="bench.joinAgain(c)">Join again</button></div>
        </li>
      </ul>
      <button class="plain-button" :class="{ leading: cuts.length === 0 }" @click="bench.beginCut()">{{ cuts.length === 0 ? 'Set a plane' : 'Cut it once more' }}</button>
    </template>
    <template v-else>
      <div class="field"><span>Leans about x</span><NumberField label="Lean about x" unit="°" :digits="1" :values="[draft.leanXDeg]" :min="-180" :max="180" :step="1" @change="bench.setPlane({ leanXDeg: $event[0] })" /></div>
      <div class="field"><span>Leans about y</span><NumberField label="Lean about y" unit="°" :digits="1" :values="[draft.leanYDeg]" :min="-180" :max="180" :step="1" @change="bench.setPlane({ leanYDeg: $event[0] })" /></div>
      <div class="field" title="From the middle of the plate, across the plane"><span>{{ draft.leanXDeg === 0 && draft.leanYDeg === 0 ? 'Height above the plate' : 'From the plate’s middle' }}</span><NumberField label="Distance of the plane" :values="[draft.distanceMm]" :min="-2000" :max="2000" :step="0.5" @change="bench.setPlane({ distanceMm: $event[0] })" /></div>
      <button class="plain-button" :class="{ pressed: state.tool === 'cut-points' }" :aria-pressed="state.tool === 'cut-points'" @click="take('cut-points')">Through three points</button>
      <fieldset v-if="pieces.length > 1" @pointerleave="lit = -1">
        <legend>It meets {{ seen?.pieces.length }} pieces. Cut through:</legend>
        <label v-for="(p, i) in pieces" :key="i" class="choice" @pointerenter="lit = i"><input type="checkbox" :checked="!seen?.whole.includes(i)" @focus="lit = i" @blur="lit = -1" @change="bench.leavePiece(i, !($event.target as HTMLInputElement).checked)" /> <span>Piece {{ i + 1 }}</span> <span class="figure">{{ p.areaMm2.toFixed(p.areaMm2 < 10 ? 2 : 1) }} mm²</span></label>
        <p v-if="(seen?.pieces.length ?? 0) > pieces.length" class="quiet">Smaller ones are cut through.</p>
      </fieldset>
      <p v-else-if="pieces.length === 1" class="quiet">It goes through <span class="figure">{{ seen?.areaMm2.toFixed(1) }} mm²</span>.</p>
      <div class="field"><span>Pegs</span><NumberField label="Pegs" unit="" :digits="0" :values="[pegs?.count ?? 0]" :min="0" :max="20" :step="1" @change="bench.askPegs({ count: Math.round($event[0]) })" /></div>
      <template v-if="pegs && withPegs">
        <div class="choices" role="radiogroup" aria-label="Shape of pegs">
          <label class="choice"><input type="radio" name="peg" :checked="pegs.shape === 'keyed'" @change="bench.askPegs({ shape: 'keyed' })" /> <span>Keyed, goes in one way only</span></label>
          <label class="choice"><input type="radio" name="peg" :checked="pegs.shape === 'round'" @change="bench.askPegs({ shape: 'round' })" /> <span>Round</span></label>
        </div>
        <div v-for="s in SIZES" :key="s.key" class="field"><span>{{ s.name }}</span><NumberField :label="s.name" :values="[pegs[s.key]]" :min="s.min" :max="s.max" :step="s.step" @change="bench.askPegs({ [s.key]: $event[0] })" /></div>
        <button class="plain-button" :class="{ pressed: state.tool === 'cut-pegs' }" :aria-pressed="state.tool === 'cut-pegs'" @click="take('cut-pegs')">Place them by pointing</button>
      </template>
      <p v-if="cannot" class="warn" role="status">{{ cannot }}</p>
      <button v-if="cannot && seen?.fits" class="plain-button" @click="bench.askPegs({ ...seen.fits })">Take pegs of {{ seen.fits.diameterMm }} mm</button>
      <p v-else-if="!seen" class="quiet" role="status">Looking at what it meets</p>
      <div class="line"><button class="plain-button leading" :disabled="!!state.busy || !seen || !!cannot" @click="bench.makeCut()">{{ draft.of ? 'Cut it so' : 'Cut it in two' }}</button><button class="link-button" @click="bench.endCut()">Leave it</button></div>
    </template>
  </section>
</template>

<style scoped>
.cut-sheet { padding: 12px; display: grid; gap: 10px; }
h2 { font-size: 13px; font-weight: 600; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 10px; }
li { display: grid; gap: 4px; padding-bottom: 8px; border-bottom: 1px solid #ece6d9; overflow-wrap: anywhere; }
.plain-button { justify-self: start; }
fieldset { border: 0; padding: 0; margin: 0; display: grid; gap: 2px; }
legend { padding: 0; margin-bottom: 4px; }
.choices { display: grid; gap: 2px; }
.choice { display: grid; grid-template-columns: auto 1fr auto; gap: 6px; align-items: center; min-height: 24px; }
.choice .figure { font-size: 12.5px; }
.line { display: flex; justify-content: space-between; align-items: center; }
.field { display: grid; grid-template-columns: 1fr 110px; align-items: center; gap: 8px; }
.warn { color: #560f2a; }
</style>
