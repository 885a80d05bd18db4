<script setup lang="ts">
import { bytesText, verdictOf } from '@bench-wake/core/kernel'
import type { AddedAnswer, ProblemDocument, ShelfImage } from '@bench-wake/server'
import { useEventListener } from '@vueuse/core'
import { NButton, NInput, NProgress, NTable } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import FilePick from '../parts/FilePick.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import WhereItFits from '../parts/shelf/WhereItFits.vue'
import { dayText, verdictWords } from '../parts/words'
import { api, got, problemOf } from '../stores/api'
import { useBench } from '../stores/bench'
import { sendImage } from '../stores/send-image'

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
const sought = ref('')

const off = ref<{ id: string; name: string; removedAt: number }[]>([])
const loadOff = async () => {
  off.value = await got<typeof off.value>(api.images.removed.$get())
}
const query = useRoute().query
/** The image that was taken off a moment ago. */
const justOff = computed(() => off.value.find(({ id }) => id === query['off']))
const puttingBack = useAsked()
const putBack = (id: string) =>
  puttingBack.ask(async () => {
    await got(api.images[':id']['put-back'].$post({ param: { id } }))
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
const groups = computed(() => {
  const words = sought.value.toLowerCase().split(/\s+/).filter(Boolean)
  const found = (bench.images ?? []).filter((image) => {
    const text = textOf(image)
    return words.every((word) => text.includes(word))
  })
  const byFamily = new Map<string, ShelfImage[]>()
  for (const image of found) {
    const name = familyOf(image)?.name ?? 'Not known'
    byFamily.set(name, [...(byFamily.get(name) ?? []), image])
  }
  return [...byFamily]
    .map(([name, images]) => ({ name, images: images.sort(order), id: familyOf(images[0]!)?.id }))
    .sort(
      (a, b) =>
        Number(a.name === 'Not known') - Number(b.name === 'Not known') || a.name.localeCompare(b.name),
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
      <div class="take">
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
    <p v-if="sending" role="status" class="soft sending">
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
    <div v-for="problem in refused" :key="problem.detail" class="refused">
      <ProblemNote :problem="problem" />
      <p class="small soft">Nothing of this file was kept.</p>
    </div>
    <div v-for="added in arrived" :key="added.id" class="came" role="status">
      <p v-if="added.bundle">
        <b>{{ added.bundle.name }}</b> held {{ added.images.length }}
        {{ added.images.length === 1 ? 'image' : 'images' }} and
        {{ added.bundle.entries.filter(({ note }) => note !== undefined).length }} notes:
        <template v-for="image in added.images" :key="image.id">
          <RouterLink :to="{ name: 'image', params: { id: image.id } }">{{ image.name }}</RouterLink>
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
        <RouterLink :to="{ name: 'unit', params: { id: request.unitId } }">{{ request.unitName }}</RouterLink
        >: “{{ request.asked }}”. The request is settled; open it again there if this is something else.
      </p>
      <div v-if="added.images.some(({ placed }) => placed === 'not-known')" class="place">
        <label
          >A plain binary carries no address. Say where its first byte lies and choose it again:
          <NInput v-model:value="address" class="mono" placeholder="0x08000000" />
        </label>
        <FilePick label="The same file again" :disabled="!isAddress" @all="take">
          <NButton :disabled="!isAddress">Choose it again</NButton>
        </FilePick>
      </div>
    </div>
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <p v-if="justOff" role="status" class="came">
      <b>{{ justOff.name }}</b> is off the shelf.
      <NButton @click="putBack(justOff.id)">Undo</NButton>
    </p>
    <details v-if="off.length > (justOff ? 1 : 0)" class="off">
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
        class="seek"
        clearable
        placeholder="Find on the shelf: a name, a version, a serial"
        :input-props="{ 'aria-label': 'Find on the shelf' }"
      />
      <NTable v-columns :bordered="false" class="list">
        <thead>
          <tr>
            <th style="width: 30%">What it is</th>
            <th style="width: 11%">Version</th>
            <th style="width: 20%">For hardware</th>
            <th style="width: 14%">Built, size</th>
            <th>Watch out for</th>
          </tr>
        </thead>
        <tbody v-for="group in groups" :key="group.name">
          <tr class="group">
            <th colspan="5" scope="rowgroup">
              {{ group.name }}
              <RouterLink v-if="group.id" :to="{ name: 'fits', query: { family: group.id } }"
                >what fits</RouterLink
              >
            </th>
          </tr>
          <tr
            v-for="image in group.images"
            :key="image.id"
            class="leads"
            :class="{ fresh: fresh.has(image.id) }"
            :data-image="image.name"
          >
            <td>
              <RouterLink :to="{ name: 'image', params: { id: image.id } }">{{
                componentName(image) ?? image.name
              }}</RouterLink>
              <small class="mono">{{ image.names.join(', ') }}</small>
            </td>
            <td>
              <span class="mono">{{ image.identity?.version ?? 'not known' }}</span>
              <small v-if="image.identity?.release && image.identity.release !== 'production'">{{
                image.identity.release
              }}</small>
            </td>
            <td>
              {{ image.identity?.deviceIdentifier ?? 'not known' }}, hardware
              {{ image.identity?.hardwareMajor ?? 'not known' }}
              <small>{{ forWhom(image) }}</small>
            </td>
            <td>
              {{ image.identity?.buildTime ? dayText(image.identity.buildTime) : 'not known' }}
              <small>{{ bytesText(image.bytes) }}</small>
            </td>
            <td>
              <VerdictMark :verdict="verdictOf(image.findings)" quiet />
              {{ verdictWords[verdictOf(image.findings)] }}
              <small v-for="finding in minds(image)" :key="finding.rule">{{ finding.says }}</small>
            </td>
          </tr>
        </tbody>
      </NTable>
      <p v-if="groups.length === 0" class="lead">Nothing on the shelf is called that.</p>
    </template>
    <p v-else-if="bench.images" class="lead">
      The shelf is empty. Drop the first image here: what it is for is read from its bytes.
    </p>
    <p v-else-if="!loading.problem.value" class="soft" role="status">Looking over the shelf…</p>
    <p v-if="over" class="drop" aria-hidden="true">Drop it: it is read at once</p>
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
  text-align: center;
  font-size: 24px;
  font-weight: 650;
  pointer-events: none;
}
.take {
  display: flex;
  gap: 10px;
  align-items: center;
}
.take .n-input {
  width: 240px;
}
.sending {
  display: grid;
  gap: 6px;
  margin-bottom: 14px;
  max-width: 480px;
}
.refused,
.came {
  margin-bottom: 14px;
}
.came a {
  font-weight: 650;
}
.place {
  display: flex;
  gap: 10px;
  align-items: end;
  margin-top: 10px;
}
.place label {
  display: grid;
  gap: 4px;
}
.seek {
  max-width: 420px;
  margin-bottom: 8px;
}
.group th {
  padding-top: 22px;
  color: var(--ink);
  font-weight: 650;
  font-size: 15px;
}
.group a {
  margin-left: 12px;
  font-weight: 400;
  font-size: 13px;
  color: var(--soft);
}
tr.fresh td:first-child {
  box-shadow:
    -10px 0 0 var(--paper),
    -13px 0 0 var(--brass);
}
.lead {
  font-size: 18px;
}
@media (max-width: 700px) {
  .take,
  .take .n-input,
  .place {
    width: 100%;
    flex-wrap: wrap;
  }
}
</style>
