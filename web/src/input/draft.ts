import { ref, watch, type Ref } from 'vue'

/** What stands in a field while somebody writes in it: follows its source when that changes, and is otherwise left alone. */
export function useDraft(source: () => string): { readonly text: Ref<string>; reset(): void } {
  const text = ref(source())
  watch(source, now => (text.value = now))
  return { text, reset: () => (text.value = source()) }
}
