<script setup lang="ts">
import { NInput, NModal } from 'naive-ui'
import { computed, nextTick, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useBench } from '../stores/bench'
import { useLook } from '../stores/look'

/** Finds units, images, jobs and actions by what is typed. */
const emit = defineEmits<{ close: [] }>()

interface Entry {
  kind: string
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
})

/** `2026-11-24`, so many days ahead. */
const dayAhead = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10)

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
  { kind: 'Go', says: 'Workshop rules', more: 'when to update, in what steps', act: go('workshop-rules') },
  {
    kind: 'Go',
    says: 'Cables and adapters',
    more: 'what your workshop has, with pinouts',
    act: go('adapters'),
  },
  { kind: 'Go', says: 'Who works here', more: 'your name, a second device, signing out', act: go('who') },
  { kind: 'Go', says: 'This bench’s data', more: 'backups, and what could not be read', act: go('data') },
  { kind: 'Go', says: 'Ports', more: 'which port is mine, who holds it', act: go('ports') },
  ...['Today', 'Tomorrow'].map((name, ahead) => ({
    kind: 'Go',
    says: `To take along ${name.toLowerCase()}`,
    more: 'the kit of the day, for print',
    act: () => void router.push({ name: 'kit', params: { day: dayAhead(ahead) } }),
  })),
  ...(bench.families ?? []).map((family) => ({
    kind: 'Family',
    says: family.name,
    more: `profile, revision ${family.revision}`,
    act: go('family', family.id),
  })),
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
])

const found = computed(() => {
  const words = typed.value.toLowerCase().split(/\s+/).filter(Boolean)
  return all.value
    .filter(({ kind, says, more }) =>
      words.every((word) => `${kind} ${says} ${more}`.toLowerCase().includes(word)),
    )
    .slice(0, 9)
})

function choose(entry: Entry | undefined) {
  if (!entry) return
  emit('close')
  entry.act()
}
function move(by: number) {
  at.value = (at.value + by + found.value.length) % Math.max(1, found.value.length)
}
</script>

<template>
  <NModal :show="true" :auto-focus="false" @update:show="emit('close')">
    <div class="box" role="dialog" aria-label="Search or run a command" aria-modal="true">
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
      <ul id="found" role="listbox" aria-label="Found">
        <li
          v-for="(entry, index) in found"
          :id="`found-${index}`"
          :key="`${index} ${entry.kind} ${entry.says}`"
          role="option"
          :aria-selected="index === at"
          :class="{ at: index === at }"
          @mousemove="at = index"
          @click="choose(entry)"
        >
          <span class="kind">{{ entry.kind }}</span><b>{{ entry.says }}</b
          ><span class="more">{{ entry.more }}</span>
        </li>
      </ul>
      <p v-if="found.length === 0" class="none">No match.</p>
    </div>
  </NModal>
</template>

<style scoped>
.box {
  width: min(640px, calc(100vw - 32px));
  margin: 12vh auto auto;
  padding: 0;
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--paper);
  color: var(--ink);
}
ul {
  list-style: none;
  margin: 0;
  padding: 6px 0;
}
li {
  display: grid;
  grid-template-columns: 80px auto 1fr;
  gap: 12px;
  align-items: baseline;
  min-height: 44px;
  padding: 10px 18px;
  cursor: pointer;
}
li.at {
  background: var(--water);
}
.kind,
.more {
  font-size: 13px;
  color: var(--soft);
}
.more {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.none {
  padding: 14px 18px;
  color: var(--soft);
}
</style>
