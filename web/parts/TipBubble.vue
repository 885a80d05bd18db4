<script setup lang="ts">
import { NTooltip } from 'naive-ui'
import type { Tip } from './useTip'

const { says, x, y } = defineProps<Tip>()
</script>

<template>
  <NTooltip trigger="manual" show :show-arrow="false" placement="bottom" :x="x" :y="y">{{ says }}</NTooltip>
</template>
