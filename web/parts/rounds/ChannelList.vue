<script setup lang="ts">
import {
  channelRoles,
  channelsIn,
  channelSourceIn,
  channelSourceText,
  type CaseAgreementForm,
  type ChannelSource,
} from '@bench-wake/core/rounds'
import { NButton, NInput } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import PickOne from '../PickOne.vue'

/** The channels that every log has to carry: typed one by one, or as the calibrator's list came. */
type Channel = CaseAgreementForm['channels'][number]
const channels = defineModel<Channel[]>('channels', { required: true })
const reads = defineModel<boolean>('reads', { required: true })
const roleOptions = channelRoles.map((role) => ({ value: role, label: role }))

const list = ref('')
function takeList(): void {
  const read = channelsIn(list.value)
  if (read.length > 0) channels.value = read
  list.value = ''
  typed.value = {}
}
/** What is typed of a channel's source, as long as its field is worked on. */
const typed = ref<Record<number, string>>({})
const sourceOf = (index: number): string => {
  const read = channels.value[index]?.read
  return typed.value[index] ?? (read ? channelSourceText(read as ChannelSource) : '')
}
const isBad = (text: string | undefined) => !!text?.trim() && channelSourceIn(text) === null
function setSource(index: number, text: string): void {
  typed.value[index] = text
  const channel = channels.value[index]!
  const read = channelSourceIn(text)
  if (read) channel.read = read
  else delete channel.read
}
function remove(index: number): void {
  channels.value.splice(index, 1)
  typed.value = {}
}
const add = () => channels.value.push({ name: '', unit: '', role: 'other' })
const sound = computed(
  () =>
    channels.value.length > 0 &&
    channels.value.every(({ name }) => name.trim() !== '') &&
    !Object.values(typed.value).some(isBad),
)
watch(sound, (now) => (reads.value = now), { immediate: true })
</script>

<template>
  <ul class="plain grid gap-2">
    <li
      v-for="(channel, index) in channels"
      :key="index"
      class="grid gap-2.5 items-center grid-cols-[minmax(160px,2fr)_minmax(80px,0.6fr)_minmax(130px,1fr)_minmax(190px,1.3fr)_auto] phone:grid-cols-[1fr_1fr]"
    >
      <NInput
        v-model:value="channel.name"
        placeholder="Name"
        :input-props="{ 'aria-label': `Channel ${index + 1}` }"
      />
      <NInput
        :value="channel.unit ?? ''"
        placeholder="Unit"
        :input-props="{ 'aria-label': `Unit of channel ${index + 1}` }"
        @update:value="channel.unit = $event"
      />
      <PickOne
        :value="channel.role ?? 'other'"
        :label="`What channel ${index + 1} is`"
        :options="roleOptions"
        @update:value="channel.role = $event"
      />
      <NInput
        :value="sourceOf(index)"
        class="mono"
        placeholder="0x2001 u16 × 0.1"
        v-bind="isBad(typed[index]) ? { status: 'error' as const } : {}"
        :input-props="{ 'aria-label': `How the bench gets channel ${index + 1}` }"
        @update:value="setSource(index, $event)"
      />
      <NButton quaternary :disabled="channels.length === 1" @click="remove(index)">Remove</NButton>
      <small v-if="isBad(typed[index])" class="fault col-span-full"
        >Write it as identifier, type and factor: 0x2001 u16 × 0.1 - 40; as 0xF201 u16 fast, line supply or
        beside lambda</small
      >
    </li>
  </ul>
  <div class="acts gap-3 items-start">
    <NButton @click="add">Add a channel</NButton>
    <NInput
      v-model:value="list"
      type="textarea"
      :rows="1"
      placeholder="Or paste the calibrator’s list, one a line"
      class="flex-[1_1_280px]"
      :input-props="{ 'aria-label': 'The calibrator’s list' }"
    />
    <NButton :disabled="!list.trim()" @click="takeList">Use this list</NButton>
  </div>
</template>
