<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api } from '../api/client'

const router = useRouter()
const trouble = ref('')
onMounted(async () => {
  try {
    const jobs = await api.list()
    // the first visit opens the demo; later ones begin at the list
    const first = localStorage.getItem('oak-stilts/visited') ? undefined : jobs[0]
    localStorage.setItem('oak-stilts/visited', '1')
    await router.replace(first ? `/jobs/${first.id}/hold` : '/jobs')
  } catch (error) {
    trouble.value = (error as Error).message
  }
})
</script>

<template>
  <p style="padding: 40px; text-align: center">{{ trouble || 'Opening' }}</p>
</template>
