<script setup lang="ts">
import { BINDINGS, type Binding } from '../input/bindings'
import BenchDialog from './bench-dialog.vue'

const shown = defineModel<boolean>('shown', { required: true })
const groups = [...new Set(BINDINGS.map(b => b.group))].map(name => ({ name, rows: BINDINGS.filter((b: Binding) => b.group === name) }))
</script>

<template>
  <BenchDialog v-model:shown="shown" title="Keys and gestures" width="760px">
    <div class="groups">
      <section v-for="g in groups" :key="g.name">
        <h3>{{ g.name }}</h3>
        <dl>
          <template v-for="b in g.rows" :key="b.id"><dt>{{ b.shown }}</dt><dd>{{ b.does }}</dd></template>
        </dl>
      </section>
    </div>
  </BenchDialog>
</template>

<style scoped>
.groups { columns: 2; column-gap: 32px; }
section { break-inside: avoid; margin-bottom: 16px; }
h3 { font-size: 13px; margin-bottom: 6px; }
dl { display: grid; grid-template-columns: 130px 1fr; gap: 4px 10px; margin: 0; }
dt { font-family: var(--mono); font-size: 12px; }
dd { margin: 0; color: var(--quiet); }
</style>
