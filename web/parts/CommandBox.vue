<script setup lang="ts">
import { dayAt } from '@bench-wake/core/kernel'
import { sums } from '@bench-wake/core/ready'
import { NInput, NModal } from 'naive-ui'
import { computed, nextTick, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useBench } from '../stores/bench'
import { useLook } from '../stores/look'
import { rowWords } from './outcome'
import { whenText } from './written'

/** Finds everything by what is typed; before anything is, what was used last stands first. */
const emit = defineEmits<{ close: []; keys: [] }>()

interface Entry {
  kind: string
  /** Where its words do not say which it is. */
  id?: string
  says: string
  more: string
  act: () => void
}

const router = useRouter()
const bench = useBench()
const look = useLook()
const typed = ref('')
const at = ref(0)
const field = ref<{ focus(): void }>()

onMounted(() => {
  void nextTick(() => field.value?.focus())
  void bench.loadJobs()
  void bench.loadClosedJobs()
  void bench.loadUnits()
  void bench.loadImages()
  void bench.loadFamilies()
  void bench.loadRuns()
})

const keyOf = ({ kind, id, says }: Entry) => `${kind} ${id ?? says}`
const places = computed(() => {
  const at = new Map<string, number>()
  for (const { place } of bench.units ?? []) if (place) at.set(place, (at.get(place) ?? 0) + 1)
  return [...at]
})

const go = (name: string, id?: string) => () => void router.push(id ? { name, params: { id } } : { name })

const all = computed<Entry[]>(() => [
  ...(bench.jobs ?? []).map(({ job, unit, headline }) => ({
    kind: 'Job',
    says: unit.name,
    more: `${unit.place} · ${headline.says}`,
    act: go('job', job.id),
  })),
  ...(bench.units ?? []).map((unit) => ({
    kind: 'Unit',
    says: unit.name,
    more: `${unit.place} · ${unit.serial}`,
    act: go('unit', unit.id),
  })),
  ...(bench.images ?? []).map((image) => ({
    kind: 'Image',
    says: image.names.join(', '),
    more: image.identity
      ? `${image.identity.version ?? 'no version'} · hardware ${image.identity.hardwareMajor ?? 'not known'}`
      : 'not known',
    act: go('image', image.id),
  })),
  { kind: 'Go', says: 'Today', more: 'what is next', act: go('today') },
  { kind: 'Go', says: 'Units', more: 'all equipment', act: go('units') },
  { kind: 'Go', says: 'Shelf', more: 'images; drop a file there', act: go('shelf') },
  { kind: 'Go', says: 'Drill', more: 'practise on stand-ins', act: go('drill') },
  { kind: 'Go', says: 'Logbook', more: 'every run', act: go('logbook') },
  { kind: 'Go', says: 'Which image fits which hardware', more: 'the whole shelf', act: go('fits') },
  { kind: 'Go', says: 'Rounds', more: 'calibrating with someone far away', act: go('rounds') },
  { kind: 'Go', says: 'Family profiles', more: 'what each kind of equipment is', act: go('families') },
  { kind: 'Go', says: 'Calculators', more: 'run time, lead, generator, baud, termination', act: go('sums') },
  {
    kind: 'Go',
    says: 'Dates and units',
    more: '°C or °F, mm² or AWG, how dates are written',
    act: go('who'),
  },
  { kind: 'Go', says: 'Workshop rules', more: 'when to update, in what steps', act: go('workshop-rules') },
  {
    kind: 'Go',
    says: 'Cables and adapters',
    more: 'what your workshop has, with pinouts',
    act: go('adapters'),
  },
  { kind: 'Go', says: 'Who works here', more: 'your name, a second device, signing out', act: go('who') },
  { kind: 'Go', says: 'This bench’s data', more: 'backups and damaged data', act: go('data') },
  { kind: 'Go', says: 'Ports', more: 'which port is mine, who holds it', act: go('ports') },
  ...['Today', 'Tomorrow'].map((name, ahead) => ({
    kind: 'Go',
    says: `To take along ${name.toLowerCase()}`,
    more: 'the kit of the day, for print',
    act: () => void router.push({ name: 'kit', params: { day: dayAt(Date.now(), ahead) } }),
  })),
  ...places.value.map(([place, count]) => ({
    kind: 'Place',
    says: place,
    more: count === 1 ? 'one unit' : `${count} units`,
    act: () => void router.push({ name: 'units', query: { find: place } }),
  })),
  ...sums.map(({ id, name }) => ({
    kind: 'Calculator',
    says: name,
    more: '',
    act: () => void router.push({ name: 'sums', query: { sum: id } }),
  })),
  ...(bench.families ?? []).map((family) => ({
    kind: 'Family',
    says: family.name,
    more: `profile, revision ${family.revision}`,
    act: go('family', family.id),
  })),
  {
    kind: 'Do',
    says: 'Teach a new kind of equipment',
    more: 'from its manual',
    act: () => void router.push({ name: 'teach' }),
  },
  {
    kind: 'Do',
    says: 'Add a unit',
    more: '',
    act: () => void router.push({ name: 'units', query: { add: '' } }),
  },
  { kind: 'Do', says: 'Show the keys of this screen', more: '?', act: () => emit('keys') },
  { kind: 'Do', says: 'Day light', more: 'strong contrast for sun', act: () => (look.wanted = 'day') },
  { kind: 'Do', says: 'Night light', more: 'for dark rooms', act: () => (look.wanted = 'night') },
  { kind: 'Do', says: 'Light as the system', more: '', act: () => (look.wanted = 'system') },
  {
    kind: 'Do',
    says: look.sound ? 'Mute the sound cues' : 'Sound cues on',
    more: '',
    act: () => (look.sound = !look.sound),
  },
  ...(bench.closedJobs ?? []).map(({ id, unit, place, reason, day }) => ({
    kind: 'Closed job',
    says: unit,
    more: `${place} · ${day} · ${reason}`,
    act: go('job', id),
  })),
  ...(bench.runs ?? []).map((run) => ({
    kind: 'Record',
    id: run.runId,
    says: run.unitName,
    more: `${whenText(run.startedAt)} · ${[run.imageName, rowWords(run)].filter(Boolean).join(' · ')}`,
    act: go('record', run.runId),
  })),
])

const found = computed(() => {
  const words = typed.value.toLowerCase().split(/\s+/).filter(Boolean)
  const last = (entry: Entry) => {
    const place = look.used.indexOf(keyOf(entry))
    return place === -1 ? look.used.length : place
  }
  return all.value
    .filter(({ kind, says, more }) =>
      words.every((word) => `${kind} ${says} ${more}`.toLowerCase().includes(word)),
    )
    .toSorted((a, b) => last(a) - last(b))
    .slice(0, 9)
})

function choose(entry: Entry | undefined) {
  if (!entry) return
  const key = keyOf(entry)
  look.used = [key, ...look.used.filter((each) => each !== key)].slice(0, 20)
  emit('close')
  entry.act()
}
function move(by: number) {
  at.value = (at.value + by + found.value.length) % Math.max(1, found.value.length)
}
</script>

<template>
  <NModal :show="true" :auto-focus="false" @update:show="emit('close')">
    <div
      class="box line-a-edge rounded bg-paper text-ink"
      role="dialog"
      aria-label="Search or run a command"
      aria-modal="true"
    >
      <NInput
        ref="field"
        v-model:value="typed"
        size="large"
        :input-props="{
          role: 'combobox',
          'aria-expanded': true,
          'aria-controls': 'found',
          'aria-activedescendant': found.length ? `found-${at}` : undefined,
          'aria-label': 'Find a unit, an image, a job, or something to do',
          autocomplete: 'off',
          spellcheck: false,
        }"
        placeholder="A unit, an image, a job, or something to do"
        @update:value="at = 0"
        @keydown.down.prevent="move(1)"
        @keydown.up.prevent="move(-1)"
        @keydown.enter.prevent="choose(found[at])"
      />
      <ul id="found" class="m-0 py-1.5 px-0 list-none" role="listbox" aria-label="Found">
        <li
          v-for="(entry, index) in found"
          :id="`found-${index}`"
          :key="`${index} ${entry.kind} ${entry.says}`"
          class="grid py-2.5 px-4.5 gap-3 grid-cols-[80px_auto_1fr] items-baseline min-h-11 cursor-pointer"
          role="option"
          :aria-selected="index === at"
          :class="{ at: index === at }"
          @mousemove="at = index"
          @click="choose(entry)"
        >
          <span class="kind small soft">{{ entry.kind }}</span><b>{{ entry.says }}</b
          ><span class="small soft overflow-hidden text-ellipsis whitespace-nowrap">{{ entry.more }}</span>
        </li>
      </ul>
      <p v-if="found.length === 0" class="none py-3.5 px-4.5 soft">No match.</p>
    </div>
  </NModal>
</template>

<style scoped>
.box {
  width: min(640px, calc(100vw - 32px));
  margin: 12vh auto auto;
}
li.at {
  background: var(--water);
}
</style>
