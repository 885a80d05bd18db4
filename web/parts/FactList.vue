<script setup lang="ts">
/** Labels with their values, one a line: the one way in which facts are listed. */
defineProps<{ facts: readonly { label: string; value: string; mono?: boolean; soft?: boolean }[] }>()
</script>

<template>
  <dl class="facts m-0">
    <div
      v-for="(fact, index) in facts"
      :key="index"
      class="grid py-1.5 gap-4 grid-cols-[minmax(110px,170px)_1fr] line-b"
    >
      <dt class="soft">{{ fact.label }}</dt>
      <dd class="m-0 wrap-anywhere" :class="{ mono: fact.mono, soft: fact.soft }">{{ fact.value }}</dd>
    </div>
  </dl>
</template>
