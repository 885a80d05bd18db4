<script setup lang="ts">
import { NTooltip } from 'naive-ui'
import type { Tip } from './useTip'

const { says, x, y } = defineProps<Tip>()
</script>

<template>
  <!-- Narrow enough to stand on a phone, wherever it is pointed at. -->
  <NTooltip
    trigger="manual"
    show
    :show-arrow="false"
    placement="bottom"
    :x="x"
    :y="y"
    class="max-w-80 phone:max-w-60"
    >{{ says }}</NTooltip
  >
</template>
