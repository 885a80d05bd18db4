<script setup lang="ts">
import type { Snapshot } from '@bench-wake/core/unit'
import { computed } from 'vue'
import FactList from './FactList.vue'

const { snapshot } = defineProps<{ snapshot: Snapshot }>()
const facts = computed(() => snapshot.lines.map(({ label, value }) => ({ label, value, mono: true })))
</script>

<template>
  <FactList :facts="facts" />
</template>
