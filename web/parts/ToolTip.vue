<script setup lang="ts">
import { defineAsyncComponent } from 'vue'
import { useTip } from './useTip'

/** Names a control that shows only a picture. */
const { says } = defineProps<{ says: string }>()
/** Read as the first one is shown: the start does without it. */
const TipBubble = defineAsyncComponent(() => import('./TipBubble.vue'))
const { tip, named } = useTip()
</script>

<template>
  <span class="grid" v-on="named(says)"><slot /><TipBubble v-if="tip" v-bind="tip" /></span>
</template>
