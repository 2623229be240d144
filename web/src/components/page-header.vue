<script setup lang="ts">
/** The head of a page beside the bench: its title, what it comes to in a few words, and the way back to the jobs. */
defineProps<{ title: string }>()
</script>

<template>
  <header>
    <RouterLink to="/jobs" class="mark" title="All jobs"><img src="/mark.svg" alt="" width="24" height="24" />Oak Stilts</RouterLink>
    <h1>{{ title }}</h1>
    <slot />
    <RouterLink to="/jobs" class="end">Jobs</RouterLink>
  </header>
</template>

<style scoped>
header { display: flex; align-items: baseline; gap: 14px; padding: 12px 20px; background: var(--panel); border-bottom: 1px solid var(--divider); }
.mark { display: flex; align-items: center; gap: 6px; color: var(--ink); text-decoration: none; font-weight: 600; align-self: center; }
h1 { font-size: 18px; font-weight: 600; }
.end { margin-left: auto; color: var(--ink); }
</style>
