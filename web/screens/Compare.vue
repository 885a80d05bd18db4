<script setup lang="ts">
import { addressText, bytesText, groupedNumber } from '@bench-wake/core/kernel'
import type { ShelfImage } from '@bench-wake/server'
import { NButton, NTable } from 'naive-ui'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, onMounted, ref } from 'vue'
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
const images = ref<ShelfImage[]>([])
const opened = ref<Opened[]>([])
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
        <p v-if="compared && !compared.same" class="sum">
          {{ bytesText(compared.equalBytes) }} equal<template v-if="compared.onlyFirstBytes"
            >, {{ bytesText(compared.onlyFirstBytes) }} only in the first</template
          ><template v-if="compared.onlySecondBytes"
            >, {{ bytesText(compared.onlySecondBytes) }} only in the second</template
          >. {{ Math.round(compared.share * 100) }} % of the smaller one’s blocks stand in both, wherever they
          lie.
        </p>
      </div>
    </div>
    <p v-if="loading.busy.value" class="soft" role="status">Reading both…</p>
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
            <td>{{ row.label }}</td>
            <td class="mono">{{ row.one }}</td>
            <td class="mono">{{ row.two }}</td>
          </tr>
        </tbody>
      </NTable>
      <div v-if="!compared.same" class="below">
        <section>
          <h2>Where</h2>
          <div class="acts">
            <NButton :disabled="chosen === 0" @click="choose(chosen - 1)">Previous</NButton>
            <NButton :disabled="chosen >= differences.length - 1" @click="choose(chosen + 1)">Next</NButton>
            <span class="small soft"
              >{{ chosen + 1 }} of {{ groupedNumber(differences.length)
              }}{{ compared.more ? `, and ${groupedNumber(compared.more)} more` : '' }}</span
            >
          </div>
          <div ref="list" class="stretches" tabindex="0" role="group" aria-label="Stretches that differ">
            <div :style="{ height: `${rows.getTotalSize()}px`, position: 'relative' }">
              <button
                v-for="row in rows.getVirtualItems()"
                :key="row.index"
                type="button"
                class="stretch"
                :class="{ at: row.index === chosen }"
                :style="{ transform: `translateY(${row.start}px)` }"
                @click="choose(row.index)"
              >
                <span class="mono">{{ addressText(differences[row.index]!.address) }}</span>
                {{ groupedNumber(differences[row.index]!.length) }}
                <small>{{ kinds[differences[row.index]!.kind] }}</small>
              </button>
            </div>
          </div>
        </section>
        <section class="sides">
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
.sum {
  font-size: 18px;
  max-width: 70ch;
}
.identity td {
  padding-top: 6px;
  padding-bottom: 6px;
}
.differs td {
  font-weight: 650;
}
.below {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 28px;
  margin-top: 24px;
}
.acts {
  display: flex;
  gap: 8px;
  align-items: center;
  margin: 8px 0;
}
.stretches {
  height: 480px;
  overflow: auto;
  border: 1px solid var(--hair);
}
.stretch {
  position: absolute;
  inset: 0 0 auto;
  height: 44px;
  display: grid;
  grid-template-columns: 96px auto 1fr;
  gap: 12px;
  align-items: center;
  font: inherit;
  font-size: 13px;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
  border-bottom: 1px solid var(--hair);
  padding: 0 10px;
  cursor: pointer;
}
.stretch.at {
  background: var(--water);
}
.stretch small {
  color: var(--soft);
  text-align: right;
}
.sides {
  display: grid;
  gap: 14px;
  min-width: 0;
}
@media (max-width: 1000px) {
  .below {
    grid-template-columns: minmax(0, 1fr);
  }
  .stretches {
    height: 220px;
  }
}
</style>
