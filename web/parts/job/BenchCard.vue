<script setup lang="ts">
import { groupedNumber } from '@bench-wake/core/kernel'
import type { JobView } from '@bench-wake/server'
import { NButton, NInputNumber, NProgress } from 'naive-ui'
import { computed, inject, ref, watch } from 'vue'
import FilePick from '../FilePick.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { benchDesk } from './bench-inputs'
import StandInCardPart from './StandInCardPart.vue'
import { cardFile, othersIn, readCard, readCardImage, writeCard } from './card-folder'
import { sizeText } from '../written'

/** The card or stick of a job: written in order, or taken along as an archive; and read back before anything starts. */
const { jobId, card } = defineProps<{ jobId: string; card: NonNullable<JobView['card']> }>()
const desk = inject(benchDesk)!
const working = useAsked()
const done = ref<number | null>(null)
const inTheWay = ref<string[]>([])
const names = computed(() => card.files.map(({ name }) => name))
/** As its label says, GB. */
const size = ref(desk.say.card?.mediumBytes === undefined ? null : desk.say.card.mediumBytes / 1e9)
watch(size, () => {
  const { card } = desk.say
  // A stand-in's is as large as it is.
  if (card && !card.standIn) tell(card.files, card.ordered)
})
const pickFolder = (window as { showDirectoryPicker?: (form: object) => Promise<FileSystemDirectoryHandle> })
  .showDirectoryPicker
const pick = (mode: 'read' | 'readwrite') => pickFolder!.call(window, { mode, id: 'card' })
function tell(files: NonNullable<typeof desk.say.card>['files'], ordered: boolean) {
  desk.tell('card', {
    at: Date.now(),
    files,
    ordered,
    ...(size.value === null ? {} : { mediumBytes: Math.round(size.value * 1e9) }),
  })
}
/** Choosing no folder is no fault. */
const unlessLeft = (act: () => Promise<void>) =>
  working.ask(async () => {
    try {
      await act()
    } catch (error) {
      if (!(error instanceof DOMException) || error.name !== 'AbortError') throw error
    } finally {
      done.value = null
    }
  })
const write = () =>
  unlessLeft(async () => {
    const folder = await pick('readwrite')
    inTheWay.value = card.othersAllowed ? [] : await othersIn(folder, names.value)
    if (inTheWay.value.length > 0) return
    done.value = 0
    const files = names.value.map((name, index) => ({ name, load: () => cardFile(jobId, name, index) }))
    await writeCard(folder, files, (count) => (done.value = count))
    tell(await readCard(folder, names.value), true)
  })
const check = () =>
  unlessLeft(async () => {
    inTheWay.value = []
    tell(await readCard(await pick('read'), names.value), true)
  })
const checkImage = (image: File) =>
  working.askInTurn(async () => {
    tell(await readCardImage(image), true)
  })
</script>

<template>
  <div class="grid gap-3.5">
    <ol class="m-0 pl-6" aria-label="Files in their order">
      <li v-for="file in card.files" :key="file.name" class="py-1">
        <span class="mono">{{ file.name }}</span>
        <span class="soft ml-3">{{ groupedNumber(file.bytes) }} bytes, {{ file.sha256.slice(0, 12) }}…</span>
      </li>
    </ol>
    <label class="grid gap-1.5 max-w-105">
      <span>Size of the {{ card.medium }}, GB; the unit reads none above {{ sizeText(card.maxBytes) }}</span>
      <NInputNumber
        v-model:value="size"
        :min="0"
        :step="1"
        :input-props="{ 'aria-label': `Size of the ${card.medium}, GB` }"
        placeholder="Look at its label"
      />
    </label>
    <div class="acts">
      <template v-if="pickFolder">
        <NButton type="primary" :loading="working.busy.value" @click="write"
          >Write them onto the {{ card.medium }}</NButton
        >
        <NButton :loading="working.busy.value" @click="check">Check one that is written</NButton>
      </template>
      <FilePick v-if="card.files.length" label="Image of the card" accept=".img,.bin" @picked="checkImage">
        <NButton :loading="working.busy.value">Check an image of it</NButton>
      </FilePick>
    </div>
    <NProgress
      v-if="done !== null"
      type="line"
      :percentage="Math.round((100 * done) / card.files.length)"
      :show-indicator="false"
      aria-label="Files written"
    />
    <p v-if="inTheWay.length" role="alert" class="text-stop">
      Nothing was written. In the way: {{ inTheWay.join(', ') }}. Save them elsewhere, take them off, then
      write again.
    </p>
    <ProblemNote v-if="working.problem.value" :problem="working.problem.value" />
    <p class="small soft">
      <template v-if="!pickFolder">This browser does not write into a folder. </template>
      <a :href="`/api/jobs/${jobId}/card.zip`">Save them as an archive</a> to unpack onto it, or
      <a :href="`/api/jobs/${jobId}/card.img`">as an image of the whole {{ card.medium }}</a>, its files in
      order. Eject before you pull it, then check it here.
    </p>
    <StandInCardPart
      v-if="card.files.length"
      :job-id="jobId"
      :medium="card.medium"
      @read="(read) => desk.tell('card', { at: Date.now(), ...read })"
    />
  </div>
</template>
