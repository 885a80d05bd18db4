<script setup lang="ts">
import { bytesText, verdictOf } from '@bench-wake/core/kernel'
import type { AddedAnswer, ProblemDocument, ShelfImage } from '@bench-wake/server'
import { useEventListener, useSessionStorage } from '@vueuse/core'
import { NButton, NInput, NProgress } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import FilePick from '../parts/FilePick.vue'
import ListTable from '../parts/ListTable.vue'
import type { ListColumn } from '../parts/list-column'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import WhereItFits from '../parts/shelf/WhereItFits.vue'
import { verdictWords } from '../parts/words'
import { api, got, problemOf } from '../stores/api'
import { useBench } from '../stores/bench'
import { sendImage } from '../stores/send-image'
import { dayText, written } from '../parts/written'

const bench = useBench()
const router = useRouter()
const loading = useAsked()
const over = ref(false)
const sending = ref<{ name: string; share: number | null } | null>(null)
const refused = ref<ProblemDocument[]>([])
const arrived = ref<AddedAnswer[]>([])
const isAddress = computed(() => /^0x[0-9a-f]{1,8}$/i.test(address.value.trim()))
const from = ref('')
const address = ref('')
/** What was looked for is there again when a person comes back. */
const sought = useSessionStorage('shelf-sought', '')

const off = ref<{ id: string; name: string; removedAt: number }[]>([])
const loadOff = async () => {
  off.value = await got<typeof off.value>(api.images.removed.$get())
}
const query = useRoute().query
/** Images that were taken off a moment ago: by their own page, or chosen here. */
const offNow = ref<string[]>(typeof query['off'] === 'string' ? [query['off']] : [])
const justOff = computed(() => off.value.filter(({ id }) => offNow.value.includes(id)))
const chosen = ref<string[]>([])
const takingOff = useAsked()
const staying = ref<ProblemDocument[]>([])
/** One after the other: what is in use stays, and says why. */
const takeOff = (images: readonly ShelfImage[]) =>
  takingOff.ask(async () => {
    offNow.value = []
    staying.value = []
    for (const { id } of images)
      try {
        await got(api.images[':id'].$delete({ param: { id } }))
        offNow.value.push(id)
        chosen.value = chosen.value.filter((key) => key !== id)
      } catch (error) {
        staying.value.push(problemOf(error))
      }
    await Promise.all([bench.loadImages(), loadOff()])
  })
const puttingBack = useAsked()
const putBack = (...ids: string[]) =>
  puttingBack.ask(async () => {
    for (const id of ids) await got(api.images[':id']['put-back'].$post({ param: { id } }))
    await Promise.all([bench.loadImages(), loadOff()])
  })

// Earlier links name an image in the query.
const named = query['image']
if (typeof named === 'string') void router.replace({ name: 'image', params: { id: named } })
onMounted(() => loading.ask(() => Promise.all([bench.loadImages(), bench.loadFamilies(), loadOff()])))

async function take(files: Iterable<File>) {
  refused.value = []
  arrived.value = []
  for (const file of files) {
    sending.value = { name: file.name, share: null }
    try {
      arrived.value.push(
        await sendImage(file, { from: from.value, address: address.value }, (share) => {
          sending.value = { name: file.name, share }
        }),
      )
    } catch (error) {
      refused.value.push(problemOf(error))
    }
  }
  sending.value = null
  address.value = ''
  await loading.ask(() => bench.loadImages())
}

useEventListener('dragover', (event) => {
  event.preventDefault()
  over.value = true
})
useEventListener('dragleave', (event) => {
  if (!event.relatedTarget) over.value = false
})
useEventListener('drop', (event) => {
  event.preventDefault()
  over.value = false
  if (event.dataTransfer?.files.length) void take(event.dataTransfer.files)
})

const familyOf = (image: ShelfImage) => bench.families?.find(({ id }) => id === image.identity?.familyId)
const componentName = (image: ShelfImage) =>
  familyOf(image)?.components.find(({ id }) => id === image.identity?.componentId)?.name
/** Of an archive with many images the first few are told at once; the others stand on the shelf. */
const maxShown = 8
const fresh = computed(() => new Set(arrived.value.flatMap(({ images }) => images.map(({ id }) => id))))
const textOf = (image: ShelfImage) =>
  [
    familyOf(image)?.name,
    componentName(image),
    ...image.names,
    ...Object.values(image.identity ?? {}),
    ...image.origins.map((origin) => origin.from),
  ]
    .join(' ')
    .toLowerCase()
const familyName = (image: ShelfImage) => familyOf(image)?.name ?? 'Not known'
const found = computed(() => {
  const words = sought.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (bench.images ?? [])
    .filter((image) => {
      const text = textOf(image)
      return words.every((word) => text.includes(word))
    })
    .sort(
      (a, b) =>
        Number(!familyOf(a)) - Number(!familyOf(b)) ||
        familyName(a).localeCompare(familyName(b)) ||
        order(a, b),
    )
})
/** By component in the family's order, the newest build first. */
const order = (a: ShelfImage, b: ShelfImage) => {
  const rank = (image: ShelfImage) =>
    familyOf(image)?.components.findIndex(({ id }) => id === image.identity?.componentId) ?? 0
  return rank(a) - rank(b) || (b.identity?.buildTime ?? 0) - (a.identity?.buildTime ?? 0)
}
const forWhom = ({ identity }: ShelfImage) =>
  [
    identity?.model,
    identity?.serial && `serial ${identity.serial}`,
    identity?.layout && `layout ${identity.layout}`,
    identity?.variant,
    identity?.options !== undefined && `built with ${identity.options}`,
  ]
    .filter(Boolean)
    .join(', ')
const weights = { go: 0, note: 1, hold: 2, stop: 3, unknown: 4 }
const columns: ListColumn<ShelfImage>[] = [
  { key: 'what', title: 'What it is', width: '30%', sort: (image) => componentName(image) ?? image.name },
  { key: 'version', title: 'Version', width: '11%', sort: ({ identity }) => identity?.version ?? null },
  {
    key: 'hardware',
    title: 'For hardware',
    width: '20%',
    sort: ({ identity }) =>
      identity?.hardwareMajor === undefined ? null : `${identity.deviceIdentifier} ${identity.hardwareMajor}`,
  },
  {
    key: 'built',
    title: 'Built, size',
    width: '14%',
    sort: ({ identity }) => identity?.buildTime ?? null,
  },
  { key: 'watch', title: 'Watch out for', sort: ({ findings }) => weights[verdictOf(findings)] },
]
const minds = (image: ShelfImage) => image.findings.filter(({ level }) => level !== 'go')
</script>

<template>
  <div class="page" :class="{ over }">
    <div class="head">
      <div>
        <h1>Shelf</h1>
        <p class="soft">
          Images, by what is in them. Drop files or archives anywhere on this page.
          <RouterLink :to="{ name: 'fits' }">Which fits which hardware</RouterLink>
        </p>
      </div>
      <div class="take flex gap-2.5 items-center phone:w-full phone:flex-wrap">
        <NInput
          v-model:value="from"
          placeholder="Where it comes from"
          :input-props="{ 'aria-label': 'Where the next file comes from' }"
        />
        <FilePick label="Image file" multiple @all="take">
          <NButton type="primary" size="large" :loading="sending !== null">Choose a file</NButton>
        </FilePick>
      </div>
    </div>
    <p v-if="sending" role="status" class="soft grid mb-3.5 gap-1.5 max-w-120">
      <template v-if="sending.share === null || sending.share === 1">Reading {{ sending.name }}…</template>
      <template v-else>Taking in {{ sending.name }}, {{ Math.round(sending.share * 100) }} %</template>
      <NProgress
        type="line"
        :percentage="Math.round((sending.share ?? 1) * 100)"
        :processing="sending.share === null || sending.share === 1"
        :show-indicator="false"
        :aria-label="`Taking in ${sending.name}`"
      />
    </p>
    <div v-for="problem in refused" :key="problem.detail" class="mb-3.5">
      <ProblemNote :problem="problem" />
      <p class="small soft">Nothing of this file was kept.</p>
    </div>
    <div v-for="added in arrived" :key="added.id" class="came mb-3.5" role="status">
      <p v-if="added.bundle">
        <b>{{ added.bundle.name }}</b> held {{ added.images.length }}
        {{ added.images.length === 1 ? 'image' : 'images' }} and
        {{ added.bundle.entries.filter(({ note }) => note !== undefined).length }} notes:
        <template v-for="image in added.images" :key="image.id">
          <RouterLink class="font-650" :to="{ name: 'image', params: { id: image.id } }">{{
            image.name
          }}</RouterLink>
          is
          {{ familyOf(image) ? `${componentName(image)} of a ${familyOf(image)!.name}` : 'not known' }}.
        </template>
      </p>
      <p v-else>
        <b>{{ added.name }}</b>
        {{
          familyOf(added)
            ? `is ${componentName(added)} ${added.identity?.version ?? 'without a version'} of a ${familyOf(added)!.name}.`
            : 'is of no kind of unit that is described here.'
        }}
      </p>
      <p v-if="!added.bundle && added.names.length > 1">
        <VerdictMark verdict="note" quiet /> The same image lay here as
        <span class="mono">{{ added.names[0] }}</span>. One image, {{ added.names.length }} names.
      </p>
      <WhereItFits
        v-for="image in added.images.filter(familyOf).slice(0, maxShown)"
        :key="image.id"
        :image="image"
      />
      <p v-for="request in added.settled" :key="request.id">
        <VerdictMark verdict="go" quiet /> It was awaited for
        <RouterLink class="font-650" :to="{ name: 'unit', params: { id: request.unitId } }">{{
          request.unitName
        }}</RouterLink
        >: “{{ request.asked }}”. The request is settled; open it again there if this is something else.
      </p>
      <div
        v-if="added.images.some(({ placed }) => placed === 'not-known')"
        class="place flex mt-2.5 gap-2.5 items-end phone:w-full phone:flex-wrap"
      >
        <label class="grid gap-1"
          >A plain binary carries no address. Say where its first byte lies and choose it again:
          <NInput v-model:value="address" class="mono" placeholder="0x08000000" />
        </label>
        <FilePick label="The same file again" :disabled="!isAddress" @all="take">
          <NButton :disabled="!isAddress">Choose it again</NButton>
        </FilePick>
      </div>
    </div>
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <ProblemNote v-for="problem in staying" :key="problem.detail" :problem="problem" />
    <ProblemNote v-if="takingOff.problem.value" :problem="takingOff.problem.value" />
    <p v-if="justOff.length" role="status" class="came mb-3.5">
      <b>{{ justOff.length === 1 ? justOff[0]!.name : `${justOff.length} images` }}</b>
      {{ justOff.length === 1 ? 'is' : 'are' }} off the shelf.
      <NButton :loading="puttingBack.busy.value" @click="putBack(...justOff.map(({ id }) => id))"
        >Undo</NButton
      >
    </p>
    <details v-if="off.length > justOff.length" class="off">
      <summary>Taken off, and kept for thirty days</summary>
      <p v-for="gone in off" :key="gone.id">
        <span class="mono">{{ gone.name }}</span>, {{ dayText(gone.removedAt) }}
        <NButton @click="putBack(gone.id)">Restore</NButton>
      </p>
    </details>
    <ProblemNote v-if="puttingBack.problem.value" :problem="puttingBack.problem.value" />

    <template v-if="bench.images?.length">
      <NInput
        v-model:value="sought"
        class="mb-2 max-w-105"
        clearable
        placeholder="Find on the shelf: a name, a version, a serial"
        :input-props="{ 'aria-label': 'Find on the shelf' }"
      />
      <ListTable
        v-model:chosen="chosen"
        :rows="found"
        :columns="columns"
        :key-of="({ id }) => id"
        :group-of="familyName"
        :chosen-name="({ name }) => name"
        :row-props="(image) => ({ class: { fresh: fresh.has(image.id) }, 'data-image': image.name })"
        label="Images on the shelf"
        searched
      >
        <template #heading="{ title, rows }">
          <b>{{ title }}</b>
          <RouterLink
            v-if="familyOf(rows[0]!)"
            class="ml-3 font-400 small soft"
            :to="{ name: 'fits', query: { family: familyOf(rows[0]!)!.id } }"
            >what fits</RouterLink
          >
        </template>
        <template #chosen="{ rows }">
          <NButton :loading="takingOff.busy.value" @click="takeOff(rows)">Take off the shelf</NButton>
        </template>
        <template #what="{ row: image }">
          <RouterLink :to="{ name: 'image', params: { id: image.id } }">{{
            componentName(image) ?? image.name
          }}</RouterLink>
          <small class="mono">{{ image.names.join(', ') }}</small>
        </template>
        <template #version="{ row: image }">
          <span class="mono">{{ image.identity?.version ?? 'not known' }}</span>
          <small v-if="image.identity?.release && image.identity.release !== 'production'">{{
            image.identity.release
          }}</small>
        </template>
        <template #hardware="{ row: image }">
          {{ image.identity?.deviceIdentifier ?? 'not known' }}, hardware
          {{ image.identity?.hardwareMajor ?? 'not known' }}
          <small>{{ forWhom(image) }}</small>
        </template>
        <template #built="{ row: image }">
          {{ image.identity?.buildTime ? dayText(image.identity.buildTime) : 'not known' }}
          <small>{{ bytesText(image.bytes) }}</small>
        </template>
        <template #watch="{ row: image }">
          <VerdictMark :verdict="verdictOf(image.findings)" quiet />
          {{ verdictWords[verdictOf(image.findings)] }}
          <small v-for="finding in minds(image)" :key="finding.rule">{{ written(finding.says) }}</small>
        </template>
      </ListTable>
      <p v-if="found.length === 0" class="lead text-lead">Nothing on the shelf is called that.</p>
    </template>
    <p v-else-if="bench.images" class="lead text-lead">
      The shelf is empty. Drop the first image here: what it is for is read from its bytes.
    </p>
    <p v-else-if="!loading.problem.value" class="soft" role="status">Looking over the shelf…</p>
    <p v-if="over" class="drop text-center text-large font-650 pointer-events-none" aria-hidden="true">
      Drop it: it is read at once
    </p>
  </div>
</template>

<style scoped>
.page.over {
  outline: 3px dashed var(--brass);
  outline-offset: -12px;
}
.drop {
  position: fixed;
  inset: auto 0 30px;
}
.take .n-input {
  width: 240px;
}
tr.fresh td:first-child {
  box-shadow:
    -10px 0 0 var(--paper),
    -13px 0 0 var(--brass);
}
@media (max-width: 700px) {
  .take .n-input {
    width: 100%;
    flex-wrap: wrap;
  }
}
</style>
