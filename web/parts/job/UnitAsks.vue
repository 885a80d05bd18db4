<script setup lang="ts">
import { NTable } from 'naive-ui'
import type { FamilyLink } from '@bench-wake/core/family'
import { written } from '../written'

/** What a unit asks while it takes its files, each with the usual answer (PRACTICE B11, G3). */
const { update } = defineProps<{ update: NonNullable<NonNullable<FamilyLink['medium']>['update']> }>()
</script>

<template>
  <NTable v-columns :bordered="false" class="list">
    <caption class="soft pb-2 text-left">
      {{ update.insert }}
      <b v-if="update.caution">{{ written(update.caution) }}</b>
      It has found its files when it shows
      {{ update.searches
      }}. About
      {{ update.minutes }}
      minutes.
    </caption>
    <thead>
      <tr>
        <th>The unit asks</th>
        <th>Usual answer</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="each in update.prompts" :key="each.shows">
        <td>{{ each.shows }} <small v-if="each.caution" class="block">{{ written(each.caution) }}</small></td>
        <td>{{ each.answer }}</td>
      </tr>
    </tbody>
  </NTable>
</template>
