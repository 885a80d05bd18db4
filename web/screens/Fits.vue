<script setup lang="ts">
import type { MatrixAnswer } from '@bench-wake/server'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import PickOne from '../parts/PickOne.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import { verdictWords } from '../parts/words'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { written } from '../parts/written'

const bench = useBench()
const loading = useAsked()
const family = ref(String(useRoute().query['family'] ?? ''))
const against = ref<'revisions' | 'units'>('revisions')
const againstOptions = [
  { value: 'revisions', label: 'hardware revisions' },
  { value: 'units', label: 'units, as last read' },
]
const equipment = computed(() => (bench.families ?? []).map(({ id, name }) => ({ value: id, label: name })))
const matrix = shallowRef<MatrixAnswer | null>(null)
const cells = ref<Uint16Array>(new Uint16Array())
const at = ref({ row: 0, column: 0 })
const box = ref<HTMLElement | null>(null)

const wanted = () => ({ against: against.value, ...(family.value ? { family: family.value } : {}) })
/** What is shown, or on its way. */
let asked = ''
const load = async () => {
  await Promise.all([bench.loadFamilies(), bench.loadImages()])
  if (!family.value) {
    // Where most images lie there is most to choose wrongly.
    const imagesOf = ({ id }: { id: string }) =>
      bench.images?.filter((each) => each.identity?.familyId === id).length ?? 0
    const [most] = [...(bench.families ?? [])].sort((a, b) => imagesOf(b) - imagesOf(a))
    family.value = most && imagesOf(most) > 0 ? most.id : ''
  }
  asked = JSON.stringify(wanted())
  const answer = await got<MatrixAnswer>(api.fit.matrix.$get({ query: wanted() }))
  const bytes = Uint8Array.from(atob(answer.cells), (letter) => letter.charCodeAt(0))
  cells.value = new Uint16Array(bytes.buffer)
  at.value = { row: 0, column: 0 }
  matrix.value = answer
}
onMounted(() => loading.ask(load))
watch([family, against], () => {
  if (asked !== JSON.stringify(wanted())) void loading.askInTurn(load)
})

const reasonAt = (row: number, column: number) =>
  matrix.value?.reasons[cells.value[row * matrix.value.columns.length + column] ?? -1]
const here = computed(() => {
  const own = matrix.value
  const row = own?.rows[at.value.row]
  const column = own?.columns[at.value.column]
  const reason = reasonAt(at.value.row, at.value.column)
  return row && column && reason ? { row, column, reason } : null
})
const rows = useVirtualizer(
  computed(() => ({
    count: matrix.value?.rows.length ?? 0,
    getScrollElement: () => box.value,
    estimateSize: () => 52,
    overscan: 6,
  })),
)
const template = computed(
  () => `minmax(220px, 1.6fr) repeat(${matrix.value?.columns.length ?? 1}, minmax(92px, 1fr))`,
)
const moves: Record<string, [number, number]> = {
  ArrowDown: [1, 0],
  ArrowUp: [-1, 0],
  ArrowRight: [0, 1],
  ArrowLeft: [0, -1],
}
async function key(event: KeyboardEvent) {
  const move = moves[event.key]
  const own = matrix.value
  if (!move || !own) return
  event.preventDefault()
  at.value = {
    row: Math.min(own.rows.length - 1, Math.max(0, at.value.row + move[0])),
    column: Math.min(own.columns.length - 1, Math.max(0, at.value.column + move[1])),
  }
  rows.value.scrollToIndex(at.value.row)
  await nextTick()
  box.value?.querySelector<HTMLElement>('[data-at]')?.focus()
}
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <p class="small soft"><RouterLink :to="{ name: 'shelf' }">Shelf</RouterLink> · what goes where</p>
        <h1>Which image fits which {{ against === 'revisions' ? 'hardware' : 'unit' }}</h1>
      </div>
      <div class="flex gap-3.5 phone:flex-col phone:w-full">
        <div class="field min-w-50">
          <span>Equipment</span>
          <PickOne v-model:value="family" label="Equipment" :options="equipment" filterable />
        </div>
        <div class="field min-w-50">
          <span>Against</span>
          <PickOne v-model:value="against" label="Against" :options="againstOptions" />
        </div>
      </div>
    </div>
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <p v-else-if="!matrix" class="soft" role="status">Judging…</p>
    <p v-else-if="matrix.rows.length === 0" class="lead text-lead">
      No image of this equipment is on the shelf.
      <RouterLink :to="{ name: 'shelf' }">Drop one there.</RouterLink>
    </p>
    <p v-else-if="matrix.columns.length === 0" class="lead text-lead">
      No unit of this equipment is known. <RouterLink :to="{ name: 'units' }">Add it.</RouterLink>
    </p>
    <template v-else>
      <p
        class="here grid mb-2.5 gap-3 grid-cols-[18px_1fr] items-start min-h-14 text-lead"
        role="status"
        aria-live="polite"
      >
        <template v-if="here">
          <VerdictMark class="mt-1.25" :verdict="here.reason.level" quiet :size="18" />
          <span
            ><b>{{ verdictWords[here.reason.level] }}.</b> {{ written(here.reason.says) }}
            <small class="soft block small">{{ here.row.name }} on {{ here.column.label }}</small></span
          >
        </template>
      </p>
      <div
        ref="box"
        class="max-h-140 overflow-auto line-a"
        role="grid"
        :aria-rowcount="matrix.rows.length"
        aria-label="Fits"
        @keydown="key"
      >
        <div
          class="line top grid sticky bg-paper line-b-edge small soft top-0"
          role="row"
          :style="{ gridTemplateColumns: template }"
        >
          <span class="py-2.5 px-3" role="columnheader">Image</span>
          <span v-for="column in matrix.columns" :key="column.id" class="py-2.5 px-3" role="columnheader">{{
            column.label
          }}</span>
        </div>
        <div :style="{ height: `${rows.getTotalSize()}px`, position: 'relative' }" role="rowgroup">
          <div
            v-for="row in rows.getVirtualItems()"
            :key="matrix.rows[row.index]!.id"
            class="line body grid absolute h-13 line-b"
            role="row"
            :aria-rowindex="row.index + 1"
            :style="{ gridTemplateColumns: template, transform: `translateY(${row.start}px)` }"
          >
            <span class="py-1 px-3 min-w-0" role="rowheader">
              <RouterLink
                class="no-underline"
                :to="{ name: 'image', params: { id: matrix.rows[row.index]!.id } }"
                tabindex="-1"
                >{{ matrix.rows[row.index]!.version ?? 'no version'
                }}<template v-if="matrix.rows[row.index]!.release === 'test'">, test</template></RouterLink
              >
              <small class="mono block small soft overflow-hidden text-ellipsis whitespace-nowrap">{{
                matrix.rows[row.index]!.name
              }}</small>
            </span>
            <span
              v-for="(column, index) in matrix.columns"
              :key="column.id"
              class="py-1 px-3 min-w-0"
              role="gridcell"
            >
              <button
                type="button"
                class="cell flex p-0 gap-2 items-center w-full min-h-11 font-inherit text-inherit bg-transparent bare-border cursor-pointer"
                :class="{ at: at.row === row.index && at.column === index }"
                :data-at="(at.row === row.index && at.column === index) || undefined"
                :data-level="reasonAt(row.index, index)?.level"
                :tabindex="at.row === row.index && at.column === index ? 0 : -1"
                :aria-label="`${matrix.rows[row.index]!.name} on ${column.label}: ${verdictWords[reasonAt(row.index, index)!.level]}. ${reasonAt(row.index, index)!.says}`"
                @click="at = { row: row.index, column: index }"
                @focus="at = { row: row.index, column: index }"
                @mouseenter="at = { row: row.index, column: index }"
              >
                <VerdictMark :verdict="reasonAt(row.index, index)!.level" quiet :size="16" />
                {{ verdictWords[reasonAt(row.index, index)!.level] }}
              </button>
            </span>
          </div>
        </div>
      </div>
    </template>
  </div>
</template>

<style scoped>
.line {
  min-width: max-content;
}
.top {
  z-index: 1;
}
.body {
  inset: 0 0 auto;
}
.cell.at {
  box-shadow: inset 0 -3px 0 var(--brass);
}
</style>
