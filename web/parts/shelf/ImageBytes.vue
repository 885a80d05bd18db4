<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'
import { addressText } from '@bench-wake/core/kernel'
import type { ShelfImage } from '@bench-wake/server'
import { NButton, NInput } from 'naive-ui'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useBench } from '../../stores/bench'
import { useImageDesk, type Opened } from '../../workers/image-desk'
import MemoryPicture from '../MemoryPicture.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import VerdictMark from '../VerdictMark.vue'
import EntropyPicture from './EntropyPicture.vue'
import HexView from './HexView.vue'

/** What is in an image, byte by byte: where it lies, how mixed it is, what can be read in it, and a search. */
const { image, family } = defineProps<{ image: ShelfImage; family: FamilyDocument | undefined }>()

const bench = useBench()
const desk = useImageDesk()
const opening = useAsked()
const finding = useAsked()
const opened = shallowRef<Opened | null>(null)
const top = ref(0)
const wanted = ref('')
const jump = ref('')
const hits = ref<{ length: number; at: number[] } | null>(null)
const hit = ref(0)

onMounted(() =>
  opening.ask(async () => {
    const address = image.format === 'bin' ? (image.segments[0]?.address ?? 0) : null
    opened.value = await desk('open', image.id, `/api/images/${image.id}/bytes?format=file`, address, [
      ...(bench.families ?? []),
    ])
  }),
)

const show = async (address: number) => {
  top.value = Math.max(0, (await desk('rowAt', image.id, address)) - 2)
}
const look = () =>
  finding.ask(async () => {
    hits.value = await desk('find', image.id, wanted.value)
    hit.value = 0
    if (hits.value.at[0] !== undefined) await show(hits.value.at[0])
  })
const step = async (by: number) => {
  if (!hits.value?.at.length) return
  hit.value = (hit.value + by + hits.value.at.length) % hits.value.at.length
  await show(hits.value.at[hit.value]!)
}
const goTo = async () => {
  const typed = jump.value.trim()
  if (/^(0x)?[0-9a-f]{1,8}$/i.test(typed)) await show(parseInt(typed.replace(/^0x/i, ''), 16))
}
const marked = computed(() => {
  const at = hits.value?.at[hit.value]
  return at === undefined ? [] : [{ address: at, length: hits.value!.length }]
})
</script>

<template>
  <section class="mt-4.5 pt-3.5 line-t">
    <h2>What is in it</h2>
    <p v-if="opening.busy.value || opening.reading.value" class="soft" role="status">Reading the bytes…</p>
    <ProblemNote v-if="opening.problem.value" :problem="opening.problem.value" />
    <template v-if="opened">
      <div
        class="grid pt-1.5 gap-10 grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)] narrow:gap-5 narrow:grid-cols-1"
      >
        <div>
          <h3 class="mt-4 mb-1.5">Against the unit’s memory</h3>
          <MemoryPicture
            :segments="image.segments"
            :family="family"
            :component="image.identity?.componentId"
          />
          <h3 class="mt-4 mb-1.5">Entropy along the image</h3>
          <EntropyPicture :blocks="opened.entropy" @choose="show" />
        </div>
        <div>
          <template v-if="!image.identity && opened.possible.length">
            <h3 class="mt-4 mb-1.5">It could belong to</h3>
            <ul class="plain found">
              <li v-for="each in opened.possible" :key="each.familyId + each.componentId" class="py-0.75">
                {{ bench.families?.find((own) => own.id === each.familyId)?.name }}:
                <span class="soft">{{ each.because }}</span>
              </li>
            </ul>
          </template>
          <h3 class="mt-4 mb-1.5">Vector table</h3>
          <p v-if="opened.vectors">
            <VerdictMark :verdict="opened.vectors.makesSense ? 'go' : 'note'" quiet />
            {{ opened.vectors.makesSense ? 'Makes sense' : 'Odd' }}: stack
            <span class="mono">{{ addressText(opened.vectors.stack) }}</span>, reset
            <span class="mono">{{ addressText(opened.vectors.reset) }}</span>.
            <span class="soft">{{ opened.vectors.because }}</span>
          </p>
          <p v-else class="soft">None of the usual kind at the start of a range.</p>
          <h3 class="mt-4 mb-1.5">Text found in the image</h3>
          <ul v-if="opened.texts.length" class="plain found texts max-h-47.5 overflow-auto">
            <li
              v-for="text in opened.texts.slice(0, 40)"
              :key="text.address"
              class="grid py-0.75 gap-2.5 grid-cols-[96px_60px_1fr] wrap-anywhere"
            >
              <button
                type="button"
                class="bare mono p-0 font-inherit small text-inherit bg-transparent bare-border text-left underline cursor-pointer"
                @click="show(text.address)"
              >
                {{ addressText(text.address) }}
              </button>
              <span class="kind soft small">{{ text.kind }}</span>
              <span class="mono">{{ text.text }}</span>
            </li>
          </ul>
          <p v-else class="soft">None.</p>
        </div>
      </div>
      <div class="flex mt-3.5 mb-2.5 gap-y-3 gap-x-7 flex-wrap items-center">
        <form
          class="grid gap-2 grid-cols-[230px_auto] narrow:grid-cols-[minmax(0,1fr)_auto]"
          @submit.prevent="look"
        >
          <NInput
            v-model:value="wanted"
            placeholder='Bytes or text: DE AD, "FS-20"'
            :input-props="{ 'aria-label': 'Search for bytes or text' }"
          />
          <NButton attr-type="submit" :loading="finding.busy.value">Find</NButton>
        </form>
        <p v-if="hits" class="flex gap-2 items-center" role="status">
          <template v-if="hits.at.length">
            {{ hit + 1 }} of {{ hits.at.length }}{{ hits.at.length === 1000 ? ' or more' : '' }}
            <NButton size="small" aria-label="Previous place" @click="step(-1)">‹</NButton>
            <NButton size="small" aria-label="Next place" @click="step(1)">›</NButton>
          </template>
          <template v-else>not in it</template>
        </p>
        <form
          class="grid gap-2 grid-cols-[230px_auto] narrow:grid-cols-[minmax(0,1fr)_auto]"
          @submit.prevent="goTo"
        >
          <NInput
            v-model:value="jump"
            class="mono"
            placeholder="0x08008000"
            :input-props="{ 'aria-label': 'Go to address' }"
          />
          <NButton attr-type="submit">Go to</NButton>
        </form>
      </div>
      <HexView v-model:top="top" :desk="desk" :image="image.id" :rows="opened.rows" :marked="marked" />
    </template>
  </section>
</template>

<style scoped>
.bare {
  text-decoration-color: var(--edge);
}
</style>
