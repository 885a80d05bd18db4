<script setup lang="ts">
import { NTooltip } from 'naive-ui'

/** The words of a tooltip over a place of the page, px. */
const { says, x, y } = defineProps<{ says: string; x: number; y: number }>()
</script>

<template>
  <NTooltip trigger="manual" show :show-arrow="false" placement="bottom" :x="x" :y="y">{{ says }}</NTooltip>
</template>
