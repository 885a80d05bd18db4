<script setup lang="ts">
import type { CaseAgreementForm } from '@bench-wake/core/rounds'
import { NButton, NInput, NInputNumber } from 'naive-ui'

/** The kinds of log, in the order in which they are asked for: how long each is, and how close its rows. */
const kinds = defineModel<CaseAgreementForm['kinds']>({ required: true })
</script>

<template>
  <ul class="plain grid gap-2">
    <li
      v-for="(kind, index) in kinds"
      :key="kind.id"
      class="grid gap-2.5 items-center grid-cols-[minmax(160px,2fr)_minmax(170px,1fr)_minmax(190px,1fr)_auto] phone:grid-cols-[1fr_1fr]"
    >
      <NInput v-model:value="kind.name" :input-props="{ 'aria-label': `Kind ${index + 1}` }" />
      <label class="grid gap-2 grid-cols-[84px_1fr] items-center small soft"
        ><NInputNumber
          v-model:value="kind.minSeconds"
          :min="0"
          :show-button="false"
          :input-props="{ 'aria-label': `Seconds of ${kind.name}` }"
        />
        s at least</label
      >
      <label class="grid gap-2 grid-cols-[84px_1fr] items-center small soft"
        ><NInputNumber
          v-model:value="kind.minHertz"
          :min="0"
          :show-button="false"
          :input-props="{ 'aria-label': `Rows a second of ${kind.name}` }"
        />
        rows a second</label
      >
      <NButton quaternary :disabled="kinds.length === 1" @click="kinds.splice(index, 1)">Remove</NButton>
    </li>
  </ul>
</template>
