<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'

/** What the unit asks in the middle of an update, with the usual answer (PRACTICE H4): whoever knows it stays there. */
defineProps<{ asks: NonNullable<FamilyDocument['asks']> }>()
</script>

<template>
  <section class="asks my-4 pt-4 line-t" aria-label="What it asks meanwhile">
    <h3>What it asks meanwhile</h3>
    <dl class="mt-2 mb-0 mx-0">
      <div
        v-for="each in asks"
        :key="each.asks"
        class="grid py-1.5 gap-4 grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)]"
      >
        <dt class="mono">{{ each.asks }}</dt>
        <dd class="m-0">
          {{ each.usually }}<small v-if="each.when" class="soft block">{{ each.when }}</small>
        </dd>
      </div>
    </dl>
  </section>
</template>
