<script setup lang="ts">
import {
  addressText,
  bytesText,
  groupedNumber,
  verdictOf,
  type Finding,
  inSentence,
} from '@bench-wake/core/kernel'
import type { ImageNote, ShelfBundle, ShelfImage } from '@bench-wake/server'
import { NButton, NInput } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import FactList from '../parts/FactList.vue'
import FindingList from '../parts/FindingList.vue'
import MemoryPicture from '../parts/MemoryPicture.vue'
import EntropyPicture from '../parts/shelf/EntropyPicture.vue'
import HexView from '../parts/shelf/HexView.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import { dayText, formatWords, placedWords, verdictWords, whenText } from '../parts/words'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { useImageDesk, type Opened } from '../workers/image-desk'

type Media = {
  familyId: string
  medium: { name: string; mostBytes: number; files: { name: string }[] }
  findings: Finding[]
}

const id = String(useRoute().params['id'])
const router = useRouter()
const bench = useBench()
const desk = useImageDesk()
const loading = useAsked()
const opening = useAsked()
const finding = useAsked()
const image = ref<(ShelfImage & { notes: ImageNote[] }) | null>(null)
const opened = ref<Opened | null>(null)
const close = ref<{ id: string; name: string; share: number }[]>([])
const archive = ref<(ShelfBundle & { media: Media[] }) | null>(null)
const top = ref(0)
const removing = useAsked()
const takeOff = () =>
  removing.ask(async () => {
    await got(api.images[':id'].$delete({ param: { id } }))
    await router.push({ name: 'shelf', query: { off: id } })
  })
const wanted = ref('')
const jump = ref('')
const hits = ref<{ length: number; at: number[] } | null>(null)
const hit = ref(0)

onMounted(() =>
  loading.ask(async () => {
    const [own] = await Promise.all([
      got<ShelfImage & { notes: ImageNote[] }>(api.images[':id'].$get({ param: { id } })),
      bench.loadFamilies(),
      bench.loadImages(),
    ])
    image.value = own
    const bundleId = own.origins.find((origin) => origin.bundleId)?.bundleId
    const address = own.format === 'bin' ? (own.segments[0]?.address ?? 0) : null
    void opening.ask(async () => {
      opened.value = await desk('open', id, `/api/images/${id}/bytes?format=file`, address, [
        ...(bench.families ?? []),
      ])
    })
    close.value = await got(api.images[':id']['close-to'].$get({ param: { id } }))
    if (bundleId) archive.value = await got(api.images.bundles[':id'].$get({ param: { id: bundleId } }))
  }),
)

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

/** What the image says of itself, in the order in which a technician asks. */
const facts = computed(() => {
  const own = image.value
  const said = own?.identity
  if (!own) return []
  const rows: [string, string | undefined, boolean?][] = [
    ['Device', said?.deviceIdentifier, true],
    ['Hardware', said?.hardwareMajor === undefined ? undefined : String(said.hardwareMajor)],
    ['Model', said?.model, true],
    ['Version', said?.version, true],
    ['Release', said?.release],
    ['Issued for serial', said?.serial, true],
    ['Variant', variantText(said?.variant)],
    ['Built with', said?.options === undefined ? undefined : optionText(said.options)],
    ['Memory layout', said?.layout, true],
    ['Goes on versions', rangeText(said)],
    ['Goes on the image', said?.precursor && `${said.precursor.slice(0, 16)}…`, true],
    ['Sequence number', said?.sequence === undefined ? undefined : String(said.sequence)],
    ['Built', said?.buildTime === undefined ? undefined : whenText(said.buildTime)],
    ['Own checksum', said?.intact ? (said.intact.ok ? 'holds' : 'does not hold') : undefined],
  ]
  return [
    ...rows.flatMap(([label, value, mono]) => (value ? [{ label, value, ...(mono ? { mono } : {}) }] : [])),
    { label: 'Format', value: `${formatWords[own.format]}${own.dfu ? ', with a DFU suffix' : ''}` },
    { label: 'Address', value: placedWords[own.placed] },
    ...own.segments.slice(0, 4).map(({ address, length }) => ({
      label: 'Range',
      value: `${addressText(address)} to ${addressText(address + length - 1)}, ${groupedNumber(length)} bytes`,
      mono: true,
    })),
    ...(own.segments.length > 4 ? [{ label: '', value: `and ${own.segments.length - 4} more ranges` }] : []),
    ...own.origins.map((origin) => ({
      label: 'Came as',
      value: [
        origin.bundle ? `${origin.path} in ${origin.bundle}` : origin.name,
        origin.from ?? 'nobody said from where',
        dayText(origin.at),
      ].join(', '),
    })),
    { label: 'SHA-256 of the file', value: own.sha256, mono: true },
  ]
})
function variantText(variant: string | undefined) {
  const answers = family.value?.questions?.flatMap((question) => question.answers) ?? []
  return answers.find((answer) => answer.id === variant)?.says ?? variant
}
function optionText(options: string) {
  const names = component.value?.options ?? []
  if (options === 'none') return 'no options'
  return options
    .split('+')
    .map((each) => names.find((option) => option.id === each)?.name ?? each)
    .join(', ')
}
function rangeText(said: ShelfImage['identity'] | undefined) {
  return [
    said?.requiresFrom && `from ${said.requiresFrom}`,
    said?.requiresBelow && `below ${said.requiresBelow}`,
  ]
    .filter(Boolean)
    .join(' and ')
}

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

const show = async (address: number) => {
  top.value = Math.max(0, (await desk('rowAt', id, address)) - 2)
}
const look = () =>
  finding.ask(async () => {
    hits.value = await desk('find', id, wanted.value)
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
const others = computed(() =>
  (bench.images ?? [])
    .filter((each) => each.id !== id)
    .sort((a, b) => alike(b) - alike(a) || a.name.localeCompare(b.name)),
)
const alike = (other: ShelfImage) =>
  (close.value.find((each) => each.id === other.id)?.share ?? 0) +
  (other.identity?.familyId === image.value?.identity?.familyId ? 0.01 : 0)
const against = (event: Event) => {
  const other = (event.target as HTMLSelectElement).value
  if (other) void router.push({ name: 'compare', params: { id, other } })
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
          <p class="verdict">
            <VerdictMark :verdict="verdictOf(image.findings)" quiet :size="16" />
            {{ verdictWords[verdictOf(image.findings)] }},
            {{ bytesText(image.bytes) }}
          </p>
        </div>
        <label class="against"
          >Compare with
          <select class="native" aria-label="Compare with another image" @change="against">
            <option value="">Choose an image</option>
            <option v-for="other in others" :key="other.id" :value="other.id">
              {{ other.name }}{{ other.identity?.version ? `, ${other.identity.version}` : '' }}
            </option>
          </select>
        </label>
      </div>
      <div class="two">
        <section>
          <h2>What it says of itself</h2>
          <FactList :facts="facts" />
          <p class="acts">
            Take it
            <a
              v-for="[format, name] in exports"
              :key="format"
              :href="`/api/images/${image.id}/bytes?format=${format}`"
              download
              >{{ name }}</a
            >
          </p>
          <p><NButton :loading="removing.busy.value" @click="takeOff">Take it off the shelf</NButton></p>
          <ProblemNote v-if="removing.problem.value" :problem="removing.problem.value" />
        </section>
        <section>
          <h2>What to mind</h2>
          <FindingList :findings="image.findings" />
          <template v-if="close.length">
            <h3>Close to</h3>
            <ul class="close">
              <li v-for="other in close" :key="other.id">
                <RouterLink :to="{ name: 'compare', params: { id, other: other.id } }">{{
                  other.name
                }}</RouterLink>
                <span class="share" aria-hidden="true"
                  ><i :style="{ width: `${other.share * 100}%` }"
                /></span>
                {{ Math.round(other.share * 100) }} % of its blocks
              </li>
            </ul>
          </template>
          <template v-if="archive">
            <h3>With it in {{ archive.name }}</h3>
            <ul class="close">
              <li v-for="entry in archive.entries" :key="entry.path">
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
              <h3>As a package for the {{ each.medium.name }}</h3>
              <FindingList v-if="isPackage(each)" :findings="each.findings" />
              <p v-else class="soft">
                It is none. The unit looks on the {{ each.medium.name }} for
                {{ each.medium.files.map(({ name }) => name).join(', ') }}.
              </p>
            </template>
          </template>
        </section>
      </div>
      <section v-if="image.notes.length" class="notes">
        <h2>Release notes</h2>
        <details v-for="(note, index) in image.notes" :key="note.path" :open="index === 0">
          <summary>{{ note.path }}</summary>
          <pre>{{ note.text }}</pre>
        </details>
      </section>
      <p v-else class="soft notes">
        No release notes came with it. Say so in the record, and what the supplier told you.
      </p>

      <section class="bytes">
        <h2>What is in it</h2>
        <p v-if="opening.busy.value" class="soft" role="status">Reading the bytes…</p>
        <ProblemNote v-if="opening.problem.value" :problem="opening.problem.value" />
        <template v-if="opened">
          <div class="two">
            <div>
              <h3>Against the unit’s memory</h3>
              <MemoryPicture
                :segments="image.segments"
                :family="family"
                :component="image.identity?.componentId"
              />
              <h3>How mixed the bytes are</h3>
              <EntropyPicture :blocks="opened.entropy" @choose="show" />
            </div>
            <div>
              <template v-if="!image.identity && opened.possible.length">
                <h3>It could belong to</h3>
                <ul class="found">
                  <li v-for="each in opened.possible" :key="each.familyId + each.componentId">
                    {{ bench.families?.find((own) => own.id === each.familyId)?.name }}:
                    <span class="soft">{{ each.because }}</span>
                  </li>
                </ul>
              </template>
              <h3>Vector table</h3>
              <p v-if="opened.vectors" class="vectors">
                <VerdictMark :verdict="opened.vectors.makesSense ? 'go' : 'note'" quiet />
                {{ opened.vectors.makesSense ? 'Makes sense' : 'Odd' }}: stack
                <span class="mono">{{ addressText(opened.vectors.stack) }}</span>, reset
                <span class="mono">{{ addressText(opened.vectors.reset) }}</span>.
                <span class="soft">{{ opened.vectors.because }}</span>
              </p>
              <p v-else class="soft">None of the usual kind at the start of a range.</p>
              <h3>Texts that tell something</h3>
              <ul v-if="opened.texts.length" class="found texts">
                <li v-for="text in opened.texts.slice(0, 40)" :key="text.address">
                  <button type="button" class="bare mono" @click="show(text.address)">
                    {{ addressText(text.address) }}
                  </button>
                  <span class="kind">{{ text.kind }}</span>
                  <span class="mono">{{ text.text }}</span>
                </li>
              </ul>
              <p v-else class="soft">None.</p>
            </div>
          </div>
          <div class="tools">
            <form @submit.prevent="look">
              <NInput
                v-model:value="wanted"
                placeholder='Bytes or text: DE AD, "FS-20"'
                :input-props="{ 'aria-label': 'Search for bytes or text' }"
              />
              <NButton attr-type="submit" :loading="finding.busy.value">Find</NButton>
            </form>
            <p v-if="hits" class="hits" role="status">
              <template v-if="hits.at.length">
                {{ hit + 1 }} of {{ hits.at.length }}{{ hits.at.length === 1000 ? ' or more' : '' }}
                <NButton size="small" aria-label="Previous place" @click="step(-1)">‹</NButton>
                <NButton size="small" aria-label="Next place" @click="step(1)">›</NButton>
              </template>
              <template v-else>not in it</template>
            </p>
            <form @submit.prevent="goTo">
              <NInput
                v-model:value="jump"
                class="mono"
                placeholder="0x08008000"
                :input-props="{ 'aria-label': 'Go to address' }"
              />
              <NButton attr-type="submit">Go to</NButton>
            </form>
          </div>
          <HexView v-model:top="top" :desk="desk" :image="id" :rows="opened.rows" :marked="marked" />
        </template>
      </section>
    </template>
    <p v-else-if="!loading.problem.value" class="soft" role="status">Taking it from the shelf…</p>
  </div>
</template>

<style scoped>
.verdict {
  font-size: 18px;
}
.against {
  display: grid;
  gap: 4px;
  font-size: 13px;
  color: var(--soft);
  width: 280px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1.1fr) minmax(0, 1fr);
  gap: 40px;
  border-top: 1px solid var(--hair);
  padding-top: 18px;
}
.bytes .two {
  border: 0;
  padding-top: 6px;
}
h3 {
  margin: 16px 0 6px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  line-height: 44px;
}
.close,
.found {
  list-style: none;
  margin: 0;
  padding: 0;
}
.close li {
  display: grid;
  grid-template-columns: minmax(0, 1.4fr) 90px auto;
  gap: 12px;
  align-items: center;
  padding: 6px 0;
  overflow-wrap: anywhere;
}
.share {
  height: 8px;
  border: 1px solid var(--edge);
}
.share i {
  display: block;
  height: 100%;
  background: var(--hull);
}
.notes {
  border-top: 1px solid var(--hair);
  margin-top: 18px;
  padding-top: 14px;
}
summary {
  min-height: 44px;
  line-height: 44px;
  cursor: pointer;
}
pre {
  margin: 0;
  font: 400 15px/1.5 var(--text);
  white-space: pre-wrap;
  max-width: 76ch;
}
.bytes {
  border-top: 1px solid var(--hair);
  margin-top: 18px;
  padding-top: 14px;
}
.texts {
  max-height: 190px;
  overflow: auto;
}
.found li {
  padding: 3px 0;
}
.texts li {
  display: grid;
  grid-template-columns: 96px 60px 1fr;
  gap: 10px;
  overflow-wrap: anywhere;
}
.kind {
  color: var(--soft);
  font-size: 13px;
}
.bare {
  font: inherit;
  font-family: var(--mono);
  font-size: 13px;
  color: inherit;
  background: none;
  border: 0;
  padding: 0;
  text-align: left;
  text-decoration: underline;
  text-decoration-color: var(--edge);
  cursor: pointer;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 12px 28px;
  align-items: center;
  margin: 14px 0 10px;
}
.tools form {
  display: grid;
  grid-template-columns: 230px auto;
  gap: 8px;
}
.hits {
  display: flex;
  gap: 8px;
  align-items: center;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
    gap: 20px;
  }
  .tools form {
    grid-template-columns: minmax(0, 1fr) auto;
  }
}
</style>
