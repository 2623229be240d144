<script setup lang="ts">
import { computed, ref } from 'vue'
import { AIMS, angleBetween, islandsOf, onScale, scoreOf, type Aim } from '@oak-stilts/core/tilts'
import { upOfTilt } from '@oak-stilts/core/pose'
import { useBench } from '../bench/use-bench'
import TiltCard from './tilt-card.vue'
import TiltMap from './tilt-map.vue'
import { AIM_WORDS, figureText, tiltText } from './words'

/** The search for a tilt: its map, what it offers, what counts. */
const { tilts, findTilt, closeTilts, stopSearch, setWeight } = useBench()
const shows = ref<Aim | 'all'>('all')
const LETTERS = 'ABCDE'
const isBest = (i: number): boolean => i === 0 && tilts.phase.value === 'done' && tilts.offered.value[0]?.measures.ledgesMm2 !== null && beatsNow.value
/** Whether the first one that is offered does better than how the part stands now. */
const beatsNow = computed(() => {
  const own = tilts.search.value, first = tilts.offered.value[0], now = tilts.measuresNow.value
  return !!own && !!first && !!now && scoreOf(first.measures, own.scales, tilts.weights.value) < scoreOf(now, own.scales, tilts.weights.value)
})
const flags = computed(() => [...tilts.offered.value.map((t, i) => ({ letter: LETTERS[i], tilt: t.tilt })), ...(tilts.picked.value ? [{ letter: '•', tilt: tilts.picked.value.tilt }] : [])])
const state = computed(() => {
  const [done, total] = tilts.progress.value
  switch (tilts.phase.value) {
    case 'reading': return 'Getting the part ready'
    case 'looking': return `Looking at tilts, coarsely: ${done} of ${total}`
    case 'scanning': return total > 0 ? `Scanning the best in full: ${done} of ${total}` : ''
    default: return ''
  }
})
/** What is known of the tilt that is pointed at: that of the nearest one that was tried. */
const pointedWords = computed(() => {
  const tilt = tilts.pointed.value, own = tilts.search.value
  if (!tilt) return ''
  if (!own || own.tried.length === 0) return `${tiltText(tilt)}: not tried yet.`
  const up = upOfTilt(tilt), near = own.tried.reduce((a, b) => (angleBetween(b.up, up) < angleBetween(a.up, up) ? b : a))
  if (angleBetween(near.up, up) > 15) return `${tiltText(tilt)}: not tried yet.`
  const full = own.fullOf(near.tilt)?.measures, m = full ?? near.measures, now = tilts.measuresNow.value
  const against = (aim: Aim): string => (now ? ` (now ${figureText(aim, aim === 'pull' ? now.peelN : now.heightMm)})` : '')
  return `${tiltText(tilt)}: ${full ? '' : 'about '}${islandsOf(m)} islands${now ? ` (now ${islandsOf(now)})` : ''}, ${figureText('pull', m.peelN)}${against('pull')}, ${figureText('height', m.heightMm)}${against('height')}${full ? '' : '; coarse'}.`
})
const worthless = computed(() => {
  const own = tilts.search.value, aim = shows.value
  return !!own && aim !== 'all' && own.tried.length > 1 && own.tried.every(t => onScale(aim, t.measures, own.scales) === 0)
})
</script>

<template>
  <section class="tilt-sheet" aria-label="Find a tilt">
    <header><h2>Find a tilt</h2><button class="plain-button" @click="closeTilts">Close</button></header>
    <p v-if="tilts.stale.value" class="line warn"><span>The part has changed since this search.</span><button class="plain-button leading" @click="findTilt">Search again</button></p>
    <p v-else-if="tilts.phase.value === 'stopped'" class="line warn"><span>{{ tilts.trouble.value || 'The search was stopped.' }}</span><button class="plain-button leading" @click="findTilt">Search again</button></p>
    <p v-else-if="state" class="line" role="status"><span>{{ state }}</span><button class="plain-button" @click="stopSearch">Stop</button></p>
    <div class="map">
      <TiltMap :shows="shows" :flags="flags" />
      <p class="line"><label for="tilt-shows">Shows</label><select id="tilt-shows" v-model="shows"><option value="all">all that counts</option><option v-for="a in AIMS" :key="a" :value="a">{{ AIM_WORDS[a].name }}</option></select></p>
      <p class="quiet pointed" aria-live="polite">{{ pointedWords || (worthless ? 'All tilts are alike in this.' : 'The middle is how its angles are nought, the edge upside down; circles every 45°. Point at it to see a tilt, click to have it scanned.') }}</p>
    </div>
    <p v-if="tilts.phase.value === 'done' && !tilts.stale.value && !beatsNow" class="words">Nothing that was found does better than how it stands now.</p>
    <div class="cards" role="group" aria-label="Tilts that are worth a look">
      <TiltCard v-if="tilts.picked.value" letter="•" :tilt="tilts.picked.value.tilt" :measures="tilts.picked.value.measures" />
      <TiltCard v-for="(t, i) in tilts.offered.value" :key="`${t.tilt.tiltXDeg} ${t.tilt.tiltYDeg}`" :letter="LETTERS[i]" :tilt="t.tilt" :measures="t.measures" :best="isBest(i)" />
    </div>
    <details class="weights">
      <summary>What counts</summary>
      <label v-for="a in AIMS" :key="a"><span>{{ AIM_WORDS[a].wish }}</span><input type="range" min="0" max="5" step="1" :value="tilts.weights.value[a]" :aria-label="AIM_WORDS[a].wish" @input="setWeight(a, Number(($event.target as HTMLInputElement).value))" /><span class="figure">{{ tilts.weights.value[a] }}</span></label>
    </details>
    <p class="quiet small">Counted without stilts. Pull, time and resin of stilts are estimates.</p>
  </section>
</template>

<style scoped>
.tilt-sheet { display: grid; align-content: start; gap: 8px; padding: 10px 0 14px; }
header, .line, .map, .words, .weights, .small { padding-left: 12px; padding-right: 12px; }
header, .line { display: flex; justify-content: space-between; align-items: center; gap: 8px; }
h2 { font-size: 13px; font-weight: 600; }
.map { display: grid; gap: 6px; }
.map .line { padding: 0; }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 25px; min-width: 0; }
.pointed { min-height: 3.9em; font-size: 12.5px; line-height: 1.3; }
.warn { color: #560f2a; font-weight: 500; }
.cards { border-top: 1px solid #ece6d9; }
.cards:empty { display: none; }
.weights label { display: grid; grid-template-columns: 130px 1fr 14px; gap: 10px; align-items: center; min-height: 28px; font-size: 12.5px; }
.weights input { accent-color: var(--accent); min-width: 0; }
.weights summary { cursor: pointer; font-weight: 600; font-size: 12.5px; min-height: 24px; }
.small { font-size: 12px; }
</style>
