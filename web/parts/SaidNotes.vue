<script setup lang="ts">
import { NMessageProvider } from 'naive-ui'
import SaidNote from './SaidNote.vue'
</script>

<template>
  <NMessageProvider :max="3"><SaidNote /></NMessageProvider>
</template>
