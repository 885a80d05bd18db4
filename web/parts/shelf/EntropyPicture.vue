<script setup lang="ts">
import type { EntropyBlock } from '@bench-wake/core/image'
import { addressText } from '@bench-wake/core/kernel'
import { computed } from 'vue'
import { fixed } from '../written'

/** Entropy along the image along the image: flat is filled, the top is packed or encrypted. */
const { blocks } = defineProps<{ blocks: EntropyBlock[] }>()
const emit = defineEmits<{ choose: [address: number] }>()

const wide = computed(() => 560 / Math.max(1, blocks.length))
const mean = computed(() => blocks.reduce((sum, { bits }) => sum + bits, 0) / Math.max(1, blocks.length))
const says = computed(() => {
  const high = blocks.filter(({ bits }) => bits > 7.5).length / Math.max(1, blocks.length)
  const low = blocks.filter(({ bits }) => bits < 0.5).length / Math.max(1, blocks.length)
  const most =
    high > 0.9
      ? 'Packed or encrypted nearly throughout.'
      : low > 0.6
        ? 'Mostly one value: hardly anything in it.'
        : 'Mixed, as programs are.'
  return `${fixed(mean.value, 1)} bits a byte on average. ${most}`
})
</script>

<template>
  <figure class="mt-0 mb-3.5 mx-0 max-w-150">
    <svg viewBox="-1 0 562 62" width="100%" height="62" role="img" :aria-label="says">
      <line x1="0" x2="560" y1="4" y2="4" stroke="var(--hair)" stroke-dasharray="3 3" />
      <rect
        v-for="(block, index) in blocks"
        :key="block.address"
        class="cursor-pointer"
        :x="index * wide"
        :y="4 + (1 - block.bits / 8) * 54"
        :width="Math.max(0.7, wide - 0.3)"
        :height="Math.max(1, (block.bits / 8) * 54)"
        fill="var(--hull)"
        @click="emit('choose', block.address)"
      >
        <title>{{ addressText(block.address) }}: {{ fixed(block.bits, 2) }} bits a byte</title>
      </rect>
      <line x1="0" x2="560" y1="59" y2="59" stroke="var(--edge)" />
    </svg>
    <figcaption class="small soft">{{ says }} The dashed line is 8 bits, pure noise.</figcaption>
  </figure>
</template>
