<script setup lang="ts">
import { costOf, pieceOfFault, pieces } from '@bench-wake/core/family'
import { tryable, type SerialSettings, type Tryable } from '@bench-wake/core/link'
import type { TrialAnswer } from '@bench-wake/server'
import { NButton, NCheckbox } from 'naive-ui'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import PortChoice from '../parts/PortChoice.vue'
import AskFirst from '../parts/AskFirst.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import TrialShown from '../parts/family/TrialShown.vue'
import SpeedFinder from '../parts/port/SpeedFinder.vue'
import Terminal from '../parts/port/Terminal.vue'
import { useTerminal } from '../parts/port/useTerminal'
import TeachFromFile from '../parts/teach/TeachFromFile.vue'
import TeachPage from '../parts/teach/TeachPage.vue'
import TeachPiece from '../parts/teach/TeachPiece.vue'
import { useTeach } from '../parts/teach/useTeach'
import { useAsked } from '../parts/useAsked'
import { useTurns } from '../parts/useTurns'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { useDraft } from '../stores/draft'

/** Teaches a new kind of equipment: one question at a time, with the unit beside it, and the profile as it grows. */
const teach = useTeach()
/** What is known, then the question, then the profile so far. */
const drawn = useTurns(() => 2)
const terminal = useTerminal()
const router = useRouter()
const bench = useBench()
const drafts = useDraft()
const { draft, piece, states, document, faults, before, resumed, operation } = teach
const port = ref<string | null>(null)
const trying = useAsked()
const keeping = useAsked()
const trial = shallowRef<TrialAnswer | null>(null)
/** The person has looked at the adapter; nothing of this kind is described yet that could judge it. */
const looked = ref(false)
watch(port, () => (looked.value = false))

const open = computed(() => pieces.find(({ id }) => id === piece.value)!)
const stateOf = (id: string) => states.value.find((each) => each.id === id)!.state
const stateText = { known: 'known', 'not-known': 'not known', tried: 'tried' }
const count = computed(() => states.value.filter(({ state }) => state !== 'not-known').length)
watch(piece, () => {
  trial.value = null
  trying.problem.value = null
})

/** Operations that write or erase are tried by practice, on a stand-in that is made from the profile. */
const canTry = computed(() => {
  const name = operation.value
  if (!name || !(tryable as readonly string[]).includes(name)) return null
  const [link] = document.value.links
  const drive = link?.drive
  return drive?.speaks === 'script' && drive.operations[name] ? (name as Tryable) : null
})
/** What a profile cannot do without is filled in for a trial: it is about the line alone. */
const forTrial = () => {
  const own = document.value
  const about = { id: own.id || 'taught', name: own.name || 'Taught', summary: own.summary || 'Taught.' }
  const [component] = own.components
  const [region] = component!.memory.regions
  return {
    ...own,
    ...about,
    hardware: { ...own.hardware, deviceIdentifier: own.hardware.deviceIdentifier || 'not known' },
    components: [
      {
        ...component!,
        memory: {
          ...component!.memory,
          regions: [{ ...region!, address: region!.address || '0x0', length: region!.length || '0x1000' }],
        },
      },
    ],
    power: draft.value.power ? own.power : { ...own.power, floorVolts: 1, ceilingVolts: 100 },
  }
}
const tryIt = () =>
  trying.ask(async () => {
    const name = canTry.value
    if (!name || !port.value) return
    const wasOpen = terminal.open.value
    await letGo()
    trial.value = await got<TrialAnswer>(
      api.families.try.$post({
        json: {
          document: forTrial() as unknown as Record<string, unknown>,
          linkId: document.value.links[0]!.id,
          operation: name,
          port: port.value,
          looked: looked.value ? ['adapter-chosen'] : [],
        },
      }),
    )
    if (!trial.value.problem) {
      teach.tried(name)
      teach.lineHeard()
    }
    if (wasOpen) await terminal.start(port.value, draft.value.line)
  })
const letGo = async () => {
  await terminal.end()
  if (port.value) await terminal.release(port.value)
}
const found = (settings: SerialSettings) => {
  const { baudRate, dataBits, parity, stopBits } = settings
  teach.change({ lineKnown: true, line: { baudRate, dataBits, parity, stopBits } })
}
const skip = () => {
  if (piece.value !== 'line' && piece.value !== 'about') teach.change({ [piece.value]: null })
  teach.onward()
}
const openWhole = async () => {
  await terminal.end()
  drafts.document = document.value
  await router.push({ name: 'family', params: { id: 'new' } })
}
const save = () =>
  keeping.ask(async () => {
    const { id } = await got<{ id: string }>(
      api.families.$post({ json: document.value as unknown as Record<string, unknown> }),
    )
    await terminal.end()
    teach.done()
    await bench.loadFamilies(true)
    await router.push({ name: 'family', params: { id } })
  }, 'The profile is kept.')
/** What a profile cannot do without, by the piece that it comes from. */
const missing = computed(() =>
  pieces.flatMap(({ id, name }) => {
    const own = faults.value.filter(({ at }) => pieceOfFault(at) === id)
    const says = own.map((fault) => `${fieldName(fault.at)}: ${fault.says}`)
    return says.length > 0 ? [{ piece: id, name, says }] : []
  }),
)
const fieldNames: Record<string, string> = {
  id: 'short name',
  name: 'name',
  summary: 'the sentence',
  deviceIdentifier: 'what it says it is',
  address: 'first address',
  length: 'length',
  floorVolts: 'floor',
}
const fieldName = (at: string) => fieldNames[at.split('.').at(-1)!] ?? at
const shownProfile = computed(() => JSON.stringify(document.value.links[0]!.drive, null, 1))
</script>

<template>
  <div class="page teach">
    <div class="head">
      <div>
        <p class="small soft"><RouterLink :to="{ name: 'families' }">Family profiles</RouterLink></p>
        <h1>Teach a new kind{{ draft.about.name ? `: ${draft.about.name}` : '' }}</h1>
        <p class="soft" role="status">
          {{ resumed ? 'Taken up where it was left. ' : '' }}{{ count }} of {{ states.length }} pieces are
          known. What you do not know may stay out.
        </p>
      </div>
      <div class="acts my-2.5 gap-2.5">
        <NButton :disabled="before.length === 0" @click="teach.undo">Undo</NButton>
        <AskFirst @yes="teach.startOver">
          <template #trigger><NButton quaternary>Start over</NButton></template>
          What was taught so far is put aside; Undo brings it back.
        </AskFirst>
        <NButton @click="openWhole">Open as a whole profile</NButton>
        <NButton
          type="primary"
          size="large"
          :disabled="faults.length > 0"
          :loading="keeping.busy.value"
          @click="save"
          >Save revision 1</NButton
        >
      </div>
    </div>
    <ProblemNote v-if="keeping.problem.value" :problem="keeping.problem.value" />
    <div class="grid pt-4 gap-8 grid-cols-[170px_minmax(0,1fr)_280px] line-t slim:gap-4.5 slim:grid-cols-1">
      <nav aria-label="What is known so far">
        <ol class="plain slim:grid slim:fill-110">
          <li v-for="each in pieces" :key="each.id">
            <button
              class="py-1.5 px-3 font-inherit text-inherit bg-transparent min-h-11 w-full text-left cursor-pointer bare-border bar-hair"
              type="button"
              :class="[stateOf(each.id), { open: each.id === piece }]"
              :aria-current="each.id === piece ? 'step' : undefined"
              :data-piece="each.id"
              @click="piece = each.id"
            >
              {{ each.name }} <small class="block small soft">{{ stateText[stateOf(each.id)] }}</small>
            </button>
          </li>
        </ol>
      </nav>
      <section v-if="drawn" class="question" aria-live="polite">
        <h2 class="mb-3 text-large">{{ open.asks }}</h2>
        <div v-if="piece === 'line'" class="port grid mb-4 gap-2.5">
          <PortChoice v-model="port" unit-id="teaching" channel="serial" />
          <SpeedFinder :port="port" :begin="letGo" @found="found" />
        </div>
        <TeachPage v-if="piece === 'page'" :teach="teach" :terminal="terminal" />
        <TeachPiece v-else :teach="teach" />
        <NCheckbox v-if="canTry" v-model:checked="looked"
          >I have looked at the adapter: its levels and its wires are those of this unit</NCheckbox
        >
        <div class="acts my-2.5 gap-2.5">
          <NButton
            v-if="canTry"
            type="primary"
            ghost
            :disabled="!port || !looked"
            :loading="trying.busy.value"
            @click="tryIt"
            >Try it on the unit</NButton
          >
          <NButton type="primary" @click="teach.onward">Next</NButton>
          <NButton v-if="piece !== 'line' && piece !== 'about'" quaternary @click="skip"
            >Not known, leave it out</NButton
          >
        </div>
        <p v-if="costOf[piece] && stateOf(piece) === 'not-known'" class="soft small">{{ costOf[piece] }}</p>
        <p v-if="piece === 'entry'" class="soft small">
          A unit in its bootloader has left its work. Whatever it moves, lifts, feeds or holds back comes to
          rest first, and what moves on a road, on a quay or at sea is secured by whoever is licensed for it.
        </p>
        <ProblemNote v-if="trying.problem.value" :problem="trying.problem.value" />
        <TrialShown v-if="trial" :trial="trial" />
        <div class="grid mt-4.5 pt-3.5 gap-2 line-t">
          <h3>The unit, as it speaks</h3>
          <PortChoice v-if="piece !== 'line'" v-model="port" unit-id="teaching" channel="serial" />
          <Terminal
            :terminal="terminal"
            :port="port"
            :settings="draft.line"
            :line-end="draft.lineEnd"
            @update:line-end="teach.change({ lineEnd: $event as typeof draft.lineEnd })"
          />
          <TeachFromFile :teach="teach" />
        </div>
      </section>
      <aside v-if="drawn > 1" class="pl-5 min-w-0 slim:p-0 line-l slim:border-0">
        <h3 class="mb-1.5">{{ faults.length ? 'Still to say' : 'It is a whole profile' }}</h3>
        <ul v-if="faults.length" class="mt-0 mb-4 mx-0 p-0 list-none">
          <li v-for="each in missing" :key="each.piece" class="small py-1 wrap-anywhere">
            <NButton text @click="piece = each.piece"><b>{{ each.name }}</b></NButton>
            <span v-for="says in each.says" :key="says" class="block">{{ says }}</span>
          </li>
        </ul>
        <p v-else class="small soft">
          Save it, add the unit, and practise a whole job on a stand-in that is made from it, before the unit
          itself is touched.
        </p>
        <h3 class="mb-1.5">The link so far</h3>
        <pre
          class="mono json m-0 small max-h-105 overflow-auto whitespace-pre-wrap wrap-anywhere"
          tabindex="0"
          >{{ shownProfile }}</pre>
      </aside>
    </div>
  </div>
</template>

<style scoped>
nav .known {
  border-left-color: var(--hull);
}
nav .tried {
  border-left-color: var(--go);
}
nav .not-known {
  border-left-style: dashed;
}
nav .open {
  font-weight: 650;
  background: var(--sheet);
}
</style>
