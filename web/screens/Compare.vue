<script setup lang="ts">
import { addressText, bytesText, groupedNumber } from '@bench-wake/core/kernel'
import type { ShelfImage } from '@bench-wake/server'
import { NButton, NTable } from 'naive-ui'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRoute } from 'vue-router'
import HexView from '../parts/shelf/HexView.vue'
import LabelFinder from '../parts/shelf/LabelFinder.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useImageDesk, type Opened } from '../workers/image-desk'

const route = useRoute()
const ids = [String(route.params['id']), String(route.params['other'])] as const
const desk = useImageDesk()
const loading = useAsked()
const images = shallowRef<ShelfImage[]>([])
const opened = shallowRef<Opened[]>([])
const compared = ref<Awaited<ReturnType<typeof compareNow>> | null>(null)
const tops = ref([0, 0])
const chosen = ref(0)
const list = ref<HTMLElement | null>(null)

const compareNow = () => desk('compare', ...ids)
onMounted(() =>
  loading.ask(async () => {
    images.value = await Promise.all(
      ids.map((id) => got<ShelfImage>(api.images[':id'].$get({ param: { id } }))),
    )
    const open = []
    for (const image of images.value) {
      const address = image.format === 'bin' ? (image.segments[0]?.address ?? 0) : null
      open.push(await desk('open', image.id, `/api/images/${image.id}/bytes?format=file`, address, []))
    }
    opened.value = open
    compared.value = await compareNow()
    await choose(0)
  }),
)
const differences = computed(() => compared.value?.differences ?? [])
const rows = useVirtualizer(
  computed(() => ({
    count: differences.value.length,
    getScrollElement: () => list.value,
    estimateSize: () => 44,
    overscan: 8,
  })),
)
const kinds = {
  changed: 'other bytes',
  'only-first': 'only in the first',
  'only-second': 'only in the second',
}

async function choose(index: number) {
  const difference = differences.value[index]
  if (!difference) return
  chosen.value = index
  rows.value.scrollToIndex(index)
  const found = await Promise.all(ids.map((id) => desk('rowAt', id, difference.address)))
  tops.value = found.map((row) => Math.max(0, row - 2))
}
const marked = computed(() => differences.value.slice(Math.max(0, chosen.value - 40), chosen.value + 40))
const identityRows = computed(() => {
  const [a, b] = images.value
  if (!a || !b) return []
  const keys = [
    'deviceIdentifier',
    'hardwareMajor',
    'model',
    'componentId',
    'version',
    'release',
    'variant',
    'options',
    'layout',
    'serial',
    'requiresFrom',
    'sequence',
  ] as const
  const labels = [
    'Device',
    'Hardware',
    'Model',
    'Component',
    'Version',
    'Release',
    'Variant',
    'Options',
    'Layout',
    'Serial',
    'Goes on from',
    'Sequence',
  ]
  return keys.flatMap((key, index) => {
    const [one, two] = [a.identity?.[key], b.identity?.[key]]
    return one === undefined && two === undefined
      ? []
      : [{ label: labels[index]!, one: one ?? '—', two: two ?? '—' }]
  })
})
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <p class="small soft"><RouterLink :to="{ name: 'shelf' }">Shelf</RouterLink> · two images</p>
        <h1>
          {{
            !compared
              ? 'Comparing…'
              : compared.same
                ? 'They hold the same bytes.'
                : `${groupedNumber(compared.changedBytes)} bytes differ.`
          }}
        </h1>
        <p v-if="compared && !compared.same" class="text-lead max-w-[70ch]">
          {{ bytesText(compared.equalBytes) }} equal<template v-if="compared.onlyFirstBytes"
            >, {{ bytesText(compared.onlyFirstBytes) }} only in the first</template
          ><template v-if="compared.onlySecondBytes"
            >, {{ bytesText(compared.onlySecondBytes) }} only in the second</template
          >. {{ Math.round(compared.share * 100) }} % of the smaller one’s blocks stand in both, wherever they
          lie.
        </p>
      </div>
    </div>
    <p v-if="loading.reading.value" class="soft" role="status">Reading both…</p>
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <template v-if="compared">
      <NTable v-columns :bordered="false" class="list identity">
        <thead>
          <tr>
            <th style="width: 140px">Says</th>
            <th v-for="image in images" :key="image.id">
              <RouterLink :to="{ name: 'image', params: { id: image.id } }" class="mono">{{
                image.name
              }}</RouterLink>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in identityRows" :key="row.label" :class="{ differs: row.one !== row.two }">
            <td class="py-1.5">{{ row.label }}</td>
            <td class="mono py-1.5">{{ row.one }}</td>
            <td class="mono py-1.5">{{ row.two }}</td>
          </tr>
        </tbody>
      </NTable>
      <div v-if="!compared.same" class="grid mt-6 gap-7 grid-cols-[300px_minmax(0,1fr)] slim:grid-cols-1">
        <section>
          <h2>Where</h2>
          <div class="acts my-2 gap-2">
            <NButton :disabled="chosen === 0" @click="choose(chosen - 1)">Previous</NButton>
            <NButton :disabled="chosen >= differences.length - 1" @click="choose(chosen + 1)">Next</NButton>
            <span class="small soft"
              >{{ chosen + 1 }} of {{ groupedNumber(differences.length)
              }}{{ compared.more ? `, and ${groupedNumber(compared.more)} more` : '' }}</span
            >
          </div>
          <div
            ref="list"
            class="h-120 overflow-auto line-a slim:h-55"
            tabindex="0"
            role="group"
            aria-label="Stretches that differ"
          >
            <div :style="{ height: `${rows.getTotalSize()}px`, position: 'relative' }">
              <button
                v-for="row in rows.getVirtualItems()"
                :key="row.index"
                type="button"
                class="stretch grid py-0 px-2.5 gap-3 absolute h-11 grid-cols-[96px_auto_1fr] items-center font-inherit small text-inherit text-left bg-transparent cursor-pointer bare-border line-b"
                :class="{ at: row.index === chosen }"
                :style="{ transform: `translateY(${row.start}px)` }"
                @click="choose(row.index)"
              >
                <span class="mono">{{ addressText(differences[row.index]!.address) }}</span>
                {{ groupedNumber(differences[row.index]!.length) }}
                <small class="soft text-right">{{ kinds[differences[row.index]!.kind] }}</small>
              </button>
            </div>
          </div>
        </section>
        <section class="grid gap-3.5 min-w-0">
          <div v-for="(image, side) in images" :key="image.id">
            <h3 class="mono">{{ image.name }}</h3>
            <HexView
              v-model:top="tops[side]!"
              :desk="desk"
              :image="image.id"
              :rows="opened[side]?.rows ?? 0"
              :lines="11"
              :marked="marked"
            />
          </div>
        </section>
      </div>
      <LabelFinder v-if="!compared.same" :images="images" :desk="desk" />
    </template>
  </div>
</template>

<style scoped>
.differs td {
  font-weight: 650;
}
.stretch {
  inset: 0 0 auto;
}
.stretch.at {
  background: var(--water);
}
</style>
