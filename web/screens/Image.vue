<script setup lang="ts">
import { bytesText, inSentence, verdictOf, type Finding } from '@bench-wake/core/kernel'
import type { ImageNote, ShelfBundle, ShelfImage } from '@bench-wake/server'
import { NButton } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import FactList from '../parts/FactList.vue'
import FindingList from '../parts/FindingList.vue'
import PickOne from '../parts/PickOne.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import ImageBytes from '../parts/shelf/ImageBytes.vue'
import WhatIsIt from '../parts/shelf/WhatIsIt.vue'
import { imageFacts } from '../parts/shelf/image-facts'
import VerdictMark from '../parts/VerdictMark.vue'
import { verdictWords } from '../parts/words'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'

type Media = {
  familyId: string
  medium: { name: string; maxBytes: number; files: { name: string }[] }
  findings: Finding[]
}

const id = String(useRoute().params['id'])
const router = useRouter()
const bench = useBench()
const loading = useAsked()
const image = ref<(ShelfImage & { notes: ImageNote[] }) | null>(null)
const close = ref<{ id: string; name: string; share: number }[]>([])
const archive = ref<(ShelfBundle & { media: Media[] }) | null>(null)
const removing = useAsked()
const takeOff = () =>
  removing.ask(async () => {
    await got(api.images[':id'].$delete({ param: { id } }))
    await router.push({ name: 'shelf', query: { off: id } })
  })

onMounted(loadImage)
function loadImage() {
  return loading.ask(async () => {
    const [own] = await Promise.all([
      got<ShelfImage & { notes: ImageNote[] }>(api.images[':id'].$get({ param: { id } })),
      bench.loadFamilies(),
      bench.loadImages(),
    ])
    image.value = own
    const bundleId = own.origins.find((origin) => origin.bundleId)?.bundleId
    close.value = await got(api.images[':id']['close-to'].$get({ param: { id } }))
    if (bundleId) archive.value = await got(api.images.bundles[':id'].$get({ param: { id: bundleId } }))
  })
}

const family = computed(() => bench.families?.find((each) => each.id === image.value?.identity?.familyId))
const component = computed(() =>
  family.value?.components.find((each) => each.id === image.value?.identity?.componentId),
)
const title = computed(() => {
  const own = image.value
  if (!own) return ''
  if (!family.value) return own.name.split('/').pop()!
  const part = inSentence(component.value?.name ?? '')
  return `${family.value.name}, ${part} ${own.identity?.version ?? 'without a version'}`
})

/** An archive that holds none of the wanted names was never meant for the card. */
const isPackage = ({ medium }: Media) =>
  archive.value?.entries.some(({ path }) => medium.files.some(({ name }) => path.split('/').pop() === name))

const exports = [
  ['file', 'as it came'],
  ['ihex', 'Intel HEX'],
  ['srec', 'S-record'],
  ['uf2', 'UF2'],
  ['bin', 'plain binary'],
  ['dfu', 'DFU file'],
] as const

const others = computed(() =>
  (bench.images ?? [])
    .filter((each) => each.id !== id)
    .sort((a, b) => alike(b) - alike(a) || a.name.localeCompare(b.name)),
)
const alike = (other: ShelfImage) =>
  (close.value.find((each) => each.id === other.id)?.share ?? 0) +
  (other.identity?.familyId === image.value?.identity?.familyId ? 0.01 : 0)
const otherChoices = computed(() =>
  others.value.map(({ id: value, name, identity }) => ({
    value,
    label: identity?.version ? `${name}, ${identity.version}` : name,
  })),
)
const against = (other: string | null) => {
  if (other !== null) void router.push({ name: 'compare', params: { id, other } })
}
</script>

<template>
  <div class="page">
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <template v-if="image">
      <div class="head">
        <div>
          <p class="small soft">
            <RouterLink :to="{ name: 'shelf' }">Shelf</RouterLink> ·
            <span class="mono">{{ image.names.join(', ') }}</span>
          </p>
          <h1>{{ title }}</h1>
          <p class="text-lead">
            <VerdictMark :verdict="verdictOf(image.findings)" quiet :size="16" />
            {{ verdictWords[verdictOf(image.findings)] }},
            {{ bytesText(image.bytes) }}
          </p>
        </div>
        <label class="field w-70"
          >Compare with
          <PickOne
            :value="null"
            label="Compare with another image"
            placeholder="Choose an image"
            filterable
            :options="otherChoices"
            @update:value="against"
          />
        </label>
      </div>
      <div
        class="grid pt-4.5 gap-10 grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)] line-t narrow:gap-5 narrow:grid-cols-1"
      >
        <section>
          <h2>What it is</h2>
          <WhatIsIt :image="image" @changed="loadImage" />
          <FactList :facts="imageFacts(image, family)" />
          <p class="acts gap-y-1 gap-x-4.5 leading-11">
            Export
            <a
              v-for="[format, name] in exports"
              :key="format"
              :href="`/api/images/${image.id}/bytes?format=${format}`"
              download
              >{{ name }}</a
            >
          </p>
          <p><NButton :loading="removing.busy.value" @click="takeOff">Remove from the shelf</NButton></p>
          <ProblemNote v-if="removing.problem.value" :problem="removing.problem.value" />
        </section>
        <section>
          <h2>Watch out for</h2>
          <FindingList :findings="image.findings" />
          <template v-if="close.length">
            <h3 class="mt-4 mb-1.5">Close to</h3>
            <ul class="plain">
              <li
                v-for="other in close"
                :key="other.id"
                class="grid py-1.5 gap-3 grid-cols-[minmax(0,1.4fr)_90px_auto] items-center wrap-anywhere"
              >
                <RouterLink :to="{ name: 'compare', params: { id, other: other.id } }">{{
                  other.name
                }}</RouterLink>
                <span class="h-2 line-a-edge" aria-hidden="true"
                  ><i class="block h-full bg-hull" :style="{ width: `${other.share * 100}%` }"
                /></span>
                {{ Math.round(other.share * 100) }} % of its blocks
              </li>
            </ul>
          </template>
          <template v-if="archive">
            <h3 class="mt-4 mb-1.5">With it in {{ archive.name }}</h3>
            <ul class="plain">
              <li
                v-for="entry in archive.entries"
                :key="entry.path"
                class="grid py-1.5 gap-3 grid-cols-[minmax(0,1.4fr)_90px_auto] items-center wrap-anywhere"
              >
                <RouterLink
                  v-if="entry.imageId && entry.imageId !== id"
                  :to="{ name: 'image', params: { id: entry.imageId } }"
                  >{{ entry.path }}</RouterLink
                >
                <span v-else class="mono">{{ entry.path }}</span>
                <span />
                {{ entry.imageId === id ? 'this image' : entry.imageId ? 'image' : (entry.other ?? 'note') }},
                {{ bytesText(entry.size) }}
              </li>
            </ul>
            <template v-for="each in archive.media" :key="each.familyId">
              <h3 class="mt-4 mb-1.5">As a package for the {{ each.medium.name }}</h3>
              <FindingList v-if="isPackage(each)" :findings="each.findings" />
              <p v-else class="soft">
                It is none. The unit looks on the {{ each.medium.name }} for
                {{ each.medium.files.map(({ name }) => name).join(', ') }}.
              </p>
            </template>
          </template>
        </section>
      </div>
      <section v-if="image.notes.length" class="mt-4.5 pt-3.5 line-t">
        <h2>Release notes</h2>
        <details v-for="(note, index) in image.notes" :key="note.path" :open="index === 0">
          <summary class="fold">{{ note.path }}</summary>
          <pre class="m-0 whitespace-pre-wrap max-w-[76ch]">{{ note.text }}</pre>
        </details>
      </section>
      <p v-else class="soft mt-4.5 pt-3.5 line-t">
        No release notes came with it. Say so in the record, and what the supplier told you.
      </p>

      <ImageBytes :image="image" :family="family" />
    </template>
    <p v-else-if="!loading.problem.value" class="soft" role="status">Loading…</p>
  </div>
</template>

<style scoped>
pre {
  font: 400 15px/1.5 var(--text);
}
</style>
