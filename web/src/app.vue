<script setup lang="ts">
import { NConfigProvider, NMessageProvider, type GlobalThemeOverrides } from 'naive-ui'
import { PALETTE } from './styles/palette'

const theme: GlobalThemeOverrides = {
  common: {
    primaryColor: PALETTE.accent, primaryColorHover: '#A06B29', primaryColorPressed: '#6F4716', primaryColorSuppl: PALETTE.accent,
    textColorBase: PALETTE.ink, textColor1: PALETTE.ink, textColor2: PALETTE.ink, textColor3: PALETTE.quiet, bodyColor: PALETTE.paper, cardColor: PALETTE.panel, modalColor: PALETTE.panel, popoverColor: PALETTE.panel,
    borderColor: PALETTE.divider, dividerColor: PALETTE.divider, fontFamily: "'IBM Plex Sans', system-ui, sans-serif", fontFamilyMono: "'IBM Plex Mono', monospace", fontSize: '13px', borderRadius: '4px',
  },
}
</script>

<template>
  <NConfigProvider :theme-overrides="theme" style="height: 100%">
    <NMessageProvider placement="bottom">
      <RouterView />
    </NMessageProvider>
  </NConfigProvider>
</template>
