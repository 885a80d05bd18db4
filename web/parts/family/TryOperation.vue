<script setup lang="ts">
import { readFamily, type FamilyDocument } from '@bench-wake/core/family'
import type { Tryable } from '@bench-wake/core/link'
import { gatesBeforeLink, shutLink } from '@bench-wake/core/ready'
import { usualWorkshopRules } from '@bench-wake/core/fit'
import type { TrialAnswer } from '@bench-wake/server'
import { NButton, NCheckbox, NCheckboxGroup } from 'naive-ui'
import { computed, ref } from 'vue'
import { api, got } from '../../stores/api'
import { useBench } from '../../stores/bench'
import PortChoice from '../PortChoice.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import TrialShown from './TrialShown.vue'

/** Tries one operation of a link by itself, as it stands on the page, and tells step by step what was sent and heard. */
const { document, linkId, operation } = defineProps<{
  document: unknown
  linkId: string
  operation: Tryable
}>()
const bench = useBench()
const open = ref(false)
const port = ref<string | null>(null)
const looked = ref<string[]>([])
const trying = useAsked()
const trial = ref<TrialAnswer | null>(null)

/** What stands before the link is opened; nothing while the profile does not read. */
const inTheWay = computed(() => {
  if (!open.value || !port.value) return []
  try {
    return shutLink(
      gatesBeforeLink({
        family: readFamily(document as FamilyDocument),
        said: {},
        adapters: [],
        workshopRules: usualWorkshopRules,
        now: Date.now(),
        standIn: bench.ports?.find((each) => each.id === port.value)?.kind === 'stand-in',
      }),
    )
  } catch {
    // The faults of the profile stand beside its fields already.
    return []
  }
})
const left = computed(() => inTheWay.value.filter(({ rule }) => !looked.value.includes(rule)))
const tryIt = () =>
  trying.ask(async () => {
    trial.value = await got<TrialAnswer>(
      api.families.try.$post({
        json: {
          document: document as Record<string, unknown>,
          linkId,
          operation,
          port: port.value!,
          looked: looked.value,
        },
      }),
    )
    // Who tries again looks again.
    looked.value = []
  })
const what: Record<Tryable, string> = {
  live: 'Asks the firmware for what a log takes from it. Nothing is changed.',
  page: 'Asks the firmware for its page. Nothing is changed.',
  attach: 'Asks whether the bootloader is there. Nothing is changed.',
  identify: 'Asks the bootloader what it says of the unit. Nothing is changed.',
  read: 'Reads the first 256 bytes. Nothing is changed.',
  enter: 'Sends the unit to its bootloader: it leaves its work. Start it again, or switch it off and on.',
}
</script>

<template>
  <div data-try class="grid mt-1 mb-3.5 gap-2 justify-items-start">
    <NButton v-if="!open" size="small" @click="open = true">Try it on a unit…</NButton>
    <template v-else>
      <p class="small soft">{{ what[operation] }}</p>
      <div class="flex gap-2.5 flex-wrap items-center">
        <PortChoice v-model="port" unit-id="teaching" channel="serial" />
        <NButton
          type="primary"
          :disabled="!port || left.length > 0"
          :loading="trying.busy.value"
          @click="tryIt"
          >Try it</NButton
        >
        <NButton quaternary @click="open = false">Close</NButton>
      </div>
      <fieldset v-if="port && inTheWay.length" class="m-0 py-1 px-3.5 bare-border bar-hold">
        <legend>Before the port is opened</legend>
        <NCheckboxGroup v-model:value="looked">
          <NCheckbox v-for="each in inTheWay" :key="each.rule" :value="each.rule">{{
            each.remedy ?? each.says
          }}</NCheckbox>
        </NCheckboxGroup>
      </fieldset>
      <p v-if="trying.busy.value" class="soft" role="status">Asking the unit…</p>
      <ProblemNote v-if="trying.problem.value" :problem="trying.problem.value" />
      <TrialShown v-if="trial" :trial="trial" />
    </template>
  </div>
</template>
