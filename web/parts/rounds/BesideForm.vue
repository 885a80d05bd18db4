<script setup lang="ts">
import { askedLineScript, askedLineWords, type AskedLine } from '@bench-wake/core/link'
import type { BesideDevice, CaseAgreementForm } from '@bench-wake/core/rounds'
import { NFormItem, NInput } from 'naive-ui'
import { computed } from 'vue'
import AskedLineFields from '../port/AskedLineFields.vue'
import { instrumentSpeeds } from '../port/line-speeds'
import PickOne from '../PickOne.vue'

/** The second device that some channels come from: its line, and how it is asked. */
const device = defineModel<NonNullable<CaseAgreementForm['beside']>>({ required: true })
/** A script of another shape than one line asked and one answered is kept as it is. */
const words = computed(() => askedLineWords((device.value as BesideDevice).script))
const say = (said: AskedLine) => (device.value = { ...device.value, script: askedLineScript(said) })
const setSpeed = (baudRate: number) =>
  (device.value = { ...device.value, line: { ...device.value.line, baudRate } })
</script>

<template>
  <div class="grid gap-y-0 gap-x-4.5 fill-220">
    <NFormItem label="Name">
      <NInput
        :value="device.name"
        :maxlength="80"
        :input-props="{ 'aria-label': 'Name of the second device' }"
        @update:value="device = { ...device, name: $event }"
      />
    </NFormItem>
    <NFormItem label="Speed">
      <PickOne
        :value="device.line.baudRate"
        label="Speed of the second device"
        :options="instrumentSpeeds"
        @update:value="setSpeed"
      />
    </NFormItem>
    <AskedLineFields
      v-if="words"
      :model-value="words"
      slots="figures as {lambda}"
      @update:model-value="say"
    />
    <p v-else class="small soft">Its script has more than one question; it stays as it is.</p>
  </div>
</template>
