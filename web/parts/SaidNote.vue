<script setup lang="ts">
import { useMessage } from 'naive-ui'
import { watch } from 'vue'
import { said } from '../stores/said'

/** Shows what was done for as long as it takes to read, at the top of the page. App.vue says it to a screen reader. */
const message = useMessage()
watch(
  said,
  (now) => now && message.success(now.text, { duration: 5000, closable: true, keepAliveOnHover: true }),
  { immediate: true },
)
</script>

<template>
  <i hidden />
</template>
