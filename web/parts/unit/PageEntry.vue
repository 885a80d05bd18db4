<script setup lang="ts">
import type { FamilyDocument, ReadingPlace } from '@bench-wake/core/family'
import { NButton, NInput } from 'naive-ui'
import { hintOf, lastSaid, type LastSaid } from '@bench-wake/core/unit'
import type { FullUnit } from '@bench-wake/server'
import { computed, nextTick, onMounted, reactive, ref, shallowRef } from 'vue'
import { api, got } from '../../stores/api'
import PickOne from '../PickOne.vue'
import FilePick from '../FilePick.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { sourceWords } from '../words'
import { dayText } from '../written'

type ByPerson = Exclude<ReadingPlace, 'link'>

/** A page that a person reads: line by line in the order of the unit's own page, or pasted as a whole. */
const { unitId, family, way } = defineProps<{
  unitId: string
  family: FamilyDocument
  way: 'type' | 'paste'
}>()
const emit = defineEmits<{ kept: []; leave: [] }>()

const places: ByPerson[] = ['menu', 'boot-screen', 'app', 'label', 'chip-marking']
/** Where the most of its lines are read, labels and markings aside; a service program stands in for a link. */
const usual = computed<ByPerson>(() => {
  const told = (['menu', 'boot-screen', 'app'] as const).map((place) => ({
    place,
    lines: family.snapshot.filter(({ by }) => by === place).length,
  }))
  const most = told.reduce((best, each) => (each.lines > best.lines ? each : best))
  return most.lines > 0 ? most.place : 'app'
})
const source = ref<ByPerson>(usual.value)
const placeOptions = places.map((place) => ({
  value: place,
  label: sourceWords[place].replace('from ', ''),
}))
const values = reactive<Record<string, string>>({})
const pasted = ref('')
const photo = ref<File | null>(null)
const form = ref<HTMLFormElement>()
const { busy, problem, ask } = useAsked()
/** That nothing is known of before keeps nobody from typing. */
const before = useAsked()

onMounted(() => form.value?.querySelector<HTMLElement>('input:not([type=file]), textarea')?.focus())

/** Enter goes to the next line, as one reads down the page; on the last it keeps the page. */
async function next(event: KeyboardEvent, index: number) {
  event.preventDefault()
  const inputs = [...(form.value?.querySelectorAll<HTMLInputElement>('[data-lines] input') ?? [])]
  if (index + 1 < inputs.length) inputs[index + 1]!.focus()
  else {
    await nextTick()
    form.value?.requestSubmit()
  }
}
const filled = computed(() =>
  way === 'paste' ? pasted.value.trim() !== '' : Object.values(values).some((value) => value.trim()),
)
/** What each line said last; a page that is typed for the first time has nothing to lean on. */
const said = shallowRef<ReadonlyMap<string, LastSaid>>(new Map())
onMounted(async () => {
  if (way === 'type')
    await before.ask(async () => {
      const { snapshots, serial } = await got<FullUnit>(api.units[':id'].$get({ param: { id: unitId } }))
      said.value = lastSaid(snapshots.toReversed())
      added.value = serial
    })
})
/** Labels are read once: those that are known are shown, and typed only by who sees another. */
const changed = reactive(new Set<string>())
const isKnown = (field: string) => (said.value.get(field)?.lasts ?? false) && !changed.has(field)
const typed = computed(() => family.snapshot.filter(({ field }) => !isKnown(field)))
const known = computed(() => family.snapshot.filter(({ field }) => isKnown(field)))
/** The serial that the unit was added with, as long as no page has said it. */
const added = ref('')
const toldText = (field: string) => {
  const last = said.value.get(field)
  if (last) return `${last.value}, ${sourceWords[last.source]}, ${dayText(last.at)}`
  return field === 'serial' && added.value ? `${added.value}, as the unit was added` : undefined
}
const same = (field: string) => {
  const value = said.value.get(field)?.value ?? (field === 'serial' ? added.value : '')
  if (value) values[field] = value
}

const keep = () =>
  ask(async () => {
    const json =
      way === 'paste'
        ? { source: source.value, text: pasted.value }
        : {
            source: source.value,
            lines: family.snapshot.flatMap(({ field, label, by }) => {
              const value = values[field]?.trim()
              if (!value) return []
              const own = by && by !== 'link' && by !== source.value ? { source: by } : {}
              return [{ field, label, value, ...own }]
            }),
          }
    const kept = await got<{ id: number }>(api.units[':id'].snapshots.$post({ param: { id: unitId }, json }))
    if (photo.value) {
      const body = new FormData()
      body.append('file', photo.value)
      await got(fetch(`/api/units/${unitId}/snapshots/${kept.id}/photo`, { method: 'POST', body }))
    }
    emit('kept')
  }, 'The page is kept.')
</script>

<template>
  <form ref="form" class="entry grid mt-2 mb-5.5 gap-3.5 max-w-160" @submit.prevent="keep">
    <div class="field where max-w-70">
      <span>Read from</span>
      <PickOne v-model:value="source" label="Read from" :options="placeOptions" />
    </div>
    <ul v-if="way === 'type' && known.length" class="plain known" aria-label="Known already">
      <li
        v-for="line in known"
        :key="line.field"
        class="grid mb-1.5 gap-y-1.5 gap-x-3.5 grid-cols-[minmax(90px,auto)_1fr_auto] small items-center"
      >
        <span>{{ line.label }}</span> <span class="mono">{{ toldText(line.field) }}</span>
        <NButton size="small" @click="changed.add(line.field)">It says otherwise</NButton>
      </li>
    </ul>
    <div v-if="way === 'type'" data-lines class="grid gap-1.5">
      <label
        v-for="(line, index) in typed"
        :key="line.field"
        class="field grid-cols-[180px_1fr] items-center phone:grid-cols-1"
        ><span
          >{{ line.label
          }}<small v-if="line.by && line.by !== source && line.by !== 'link'" class="block">
            {{ sourceWords[line.by] }}</small
          ></span
        >
        <span class="grid gap-0.5">
          <NInput
            :value="values[line.field] ?? ''"
            class="mono"
            :placeholder="hintOf(line)"
            :input-props="{ 'aria-label': line.label }"
            @update:value="values[line.field] = $event"
            @keydown.enter="next($event, index)"
            @keydown.up.prevent="same(line.field)"
          />
          <small
            v-if="toldText(line.field) && !values[line.field]"
            class="block gap-y-0.5 gap-x-2.5 flex-wrap items-center"
          >
            {{ toldText(line.field) }}
            <NButton size="tiny" tabindex="-1" @click.prevent="same(line.field)">The same (↑)</NButton>
          </small>
        </span>
      </label>
    </div>
    <label v-else class="field"
      >The whole page, as it was copied
      <NInput
        v-model:value="pasted"
        type="textarea"
        class="mono"
        :autosize="{ minRows: 7, maxRows: 16 }"
        :placeholder="family.snapshot.map((line) => `${line.label}: ${hintOf(line) || '…'}`).join('\n')"
    /></label>
    <div class="flex gap-3 items-center">
      <FilePick
        label="Photo of the label or page"
        accept="image/png,image/jpeg,image/webp"
        @picked="photo = $event"
      >
        <NButton>{{ photo ? 'Another photo' : 'Add a photo of the label or page' }}</NButton>
      </FilePick>
      <span v-if="photo" class="mono">{{ photo.name }}</span>
    </div>
    <div class="acts gap-2.5">
      <NButton type="primary" attr-type="submit" :loading="busy" :disabled="!filled">Save this page</NButton>
      <NButton @click="emit('leave')">Cancel</NButton>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
  </form>
</template>
