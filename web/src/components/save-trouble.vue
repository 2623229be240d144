<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import type { Job } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import { useJobStore } from '../stores/job'
import BenchDialog from './bench-dialog.vue'
import type { BenchView } from '../router'

const props = defineProps<{ view: BenchView }>()
const emit = defineEmits<{ reload: [] }>()
const bench = useBench(), store = useJobStore(), router = useRouter()
const working = ref(false)
const problem = ref('')
const changes = (n: number): string => `${n} ${n === 1 ? 'change' : 'changes'}`
const kept = computed(() => store.apart.reduce((n, v) => n + v.edits.length, 0))

interface Choice {
  readonly label: string
  readonly leading?: boolean
  run(): Promise<void>
}
interface Trouble {
  readonly title: string
  readonly text: string
  readonly choices: readonly Choice[]
}
const openInstead = async (made: Promise<Job>): Promise<void> => void (await router.push(`/jobs/${(await made).id}/${props.view}`))

const found = computed<Trouble | null>(() => {
  if (store.saveState === 'stale') {
    return {
      title: 'Changed in another tab', text: `This job was changed in another tab or window since it was loaded here. ${changes(store.waiting)} made here ${store.waiting === 1 ? 'is' : 'are'} not in it. Nothing is merged by itself.`,
      choices: [
        { label: 'Keep mine as a copy', leading: true, run: () => openInstead(bench.keepAsCopy()) },
        { label: 'Load theirs', run: async () => {
          await store.abandon()
          emit('reload')
        } },
      ],
    }
  }
  if (store.saveState === 'gone') {
    return {
      title: 'Deleted in another tab', text: `This job was deleted in another tab or window. It is still here on this page, with ${changes(store.waiting)} that could not be saved.`,
      choices: [
        { label: 'Keep mine as a new job', leading: true, run: () => openInstead(bench.keepAsNew()) },
        { label: 'Let it go', run: async () => {
          await store.abandon()
          await router.push('/jobs')
        } },
      ],
    }
  }
  if (store.recovered === 'apart' && store.job) {
    return {
      title: 'Changes of an earlier visit', text: `${changes(kept.value)} of an earlier visit never reached the server, and the job has been changed elsewhere since. They do not go on from what is shown here. Kept as a copy, they are put on a copy of the job as it is now.`,
      choices: [
        { label: 'Keep them as a copy', leading: true, run: () => openInstead(bench.keepApartAsCopy()) },
        { label: 'Drop them', run: () => store.forgetApart() },
      ],
    }
  }
  return null
})

/** What is being done about; it stays until the other job is there, though the trouble itself is over before. */
const doing = shallowRef<Trouble | null>(null)
const trouble = computed(() => doing.value ?? found.value)

async function choose(choice: Choice): Promise<void> {
  doing.value = found.value
  working.value = true
  problem.value = ''
  try {
    await choice.run()
  } catch (error) {
    problem.value = (error as Error).message
  } finally {
    working.value = false
    doing.value = null
  }
}
defineExpose({ shown: () => trouble.value !== null })
</script>

<template>
  <BenchDialog :shown="trouble !== null" :title="trouble?.title ?? ''" width="440px" must-answer>
    <p>{{ trouble?.text }}</p>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <div class="choices">
      <button v-for="c in trouble?.choices" :key="c.label" class="plain-button" :class="{ leading: c.leading }" :disabled="working" @click="choose(c)">{{ c.label }}</button>
    </div>
  </BenchDialog>
</template>

<style scoped>
.choices { display: flex; gap: 8px; margin-top: 14px; }
.problem { margin-top: 10px; color: #560f2a; }
</style>
