<script setup lang="ts">
import type { CardSay } from '@bench-wake/core/ready'
import type { StandInCard } from '@bench-wake/server'
import { NButton } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { api, got } from '../../stores/api'
import PickOne from '../PickOne.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'

/** Where the unit has a stand-in: a card of its own, written and read back byte by byte as one in the hand. */
const { jobId, medium } = defineProps<{ jobId: string; medium: string }>()
const emit = defineEmits<{ read: [card: Omit<CardSay, 'at'>] }>()
const param = { id: jobId }
const slot = ref<StandInCard | null>(null)
const working = useAsked()
const look = async () => {
  slot.value = await got<StandInCard | null>(api.jobs[':id']['stand-in-card'].$get({ param }))
}
onMounted(() => working.ask(look))
function tell() {
  const card = slot.value?.card
  if (card) emit('read', { files: card.files, ordered: true, mediumBytes: card.bytes, standIn: true })
}
const write = () =>
  working.ask(async () => {
    slot.value = await got<StandInCard>(api.jobs[':id']['stand-in-card'].$post({ param }))
    tell()
  })
const check = () =>
  working.ask(async () => {
    await look()
    tell()
  })
type Hand = NonNullable<StandInCard['card']>['hand']
const hands: { value: Hand; label: string }[] = [
  { value: 'as-written', label: 'nobody touched it' },
  { value: 'copied-anew', label: 'somebody copied its first file anew' },
  { value: 'old-file', label: 'somebody left an old file on it' },
]
const hand = computed({
  get: () => slot.value?.card?.hand ?? 'as-written',
  set: (to: Hand) =>
    void working.ask(async () => {
      slot.value = await got<StandInCard>(
        api.jobs[':id']['stand-in-card'].$put({ param, json: { hand: to } }),
      )
    }),
})
</script>

<template>
  <div v-if="slot" class="grid pt-3 gap-2.5 line-t" role="group" aria-label="Stand-in">
    <p class="small soft">
      Without a {{ medium }} at hand: the stand-in of this unit has one of its own, and searches it byte by
      byte.
    </p>
    <div class="acts">
      <NButton :loading="working.busy.value" @click="write">Write them onto the stand-in’s</NButton>
      <template v-if="slot.card">
        <NButton :loading="working.busy.value" @click="check">Check the stand-in’s</NButton>
        <div class="w-80 max-w-full">
          <span class="small soft">What happened to it since</span>
          <PickOne v-model:value="hand" label="What happened to it since" :options="hands" />
        </div>
      </template>
    </div>
    <ProblemNote v-if="working.problem.value" :problem="working.problem.value" />
  </div>
</template>
