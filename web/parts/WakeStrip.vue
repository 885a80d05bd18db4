<script setup lang="ts">
import { drawStrip, type Strip } from '@bench-wake/core/record'
import { computed } from 'vue'

const {
  strip,
  width = 200,
  height = 22,
  label,
} = defineProps<{
  strip: Strip
  width?: number
  height?: number
  label: string
}>()

const drawn = computed(() => drawStrip(strip, width, height, label))
</script>

<template>
  <!-- The text comes from drawStrip alone: numbers, and a label it has escaped. -->
  <!-- eslint-disable-next-line vue/no-v-html -->
  <span class="inline-block max-w-full overflow-hidden align-middle" v-html="drawn" />
</template>
