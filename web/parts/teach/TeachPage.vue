<script setup lang="ts">
import { guessMarks, markOf, promptOf, type Guess } from '@bench-wake/core/family'
import { NButton, NFormItem, NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import type { useTerminal } from '../port/useTerminal'
import PickOne from '../PickOne.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import type { Teach } from './useTeach'

/** What is typed for the version, what comes back, and which part of it says what. */
const { teach, terminal } = defineProps<{ teach: Teach; terminal: ReturnType<typeof useTerminal> }>()
const asking = useAsked()
const page = computed(() => teach.draft.value.page ?? { sends: '', facts: [] })
const ends = computed(() => teach.draft.value.ends)
const { heard } = teach
/** Long enough for a page at 1200 baud; a unit that says more goes on saying it in the terminal. */
const waitMs = 1200

const setPage = (part: Partial<typeof page.value>) => teach.change({ page: { ...page.value, ...part } })
const send = () =>
  asking.ask(async () => {
    terminal.clear()
    await terminal.send({ text: page.value.sends, lineEnd: teach.draft.value.lineEnd })
    await new Promise((resolve) => setTimeout(resolve, waitMs))
    teach.hear(terminal.heard())
    const prompt = promptOf(heard.value)
    if (prompt && !ends.value) teach.change({ ends: { by: 'prompt', text: prompt } })
    // Letters at this speed: at another it would be noise.
    if (/[a-z]{2}/i.test(heard.value)) teach.lineHeard()
  })
const offered = computed(() =>
  guessMarks(heard.value).filter(({ field }) => !page.value.facts.some((fact) => fact.field === field)),
)
const use = ({ field, label, template, value }: Guess) =>
  setPage({
    facts: [
      ...page.value.facts.filter((fact) => fact.field !== field),
      { field, label, reads: template, seen: value },
    ],
  })
const drop = (field: string) => setPage({ facts: page.value.facts.filter((fact) => fact.field !== field) })

const marked = ref<{ template: string; value: string } | null>(null)
/** What the person marked in the text with mouse or keys. */
function mark(): void {
  const selection = window.getSelection()
  const text = selection?.toString() ?? ''
  if (!selection || selection.rangeCount === 0 || text.trim() === '') return
  const range = selection.getRangeAt(0)
  const before = document.createRange()
  before.setStart(box.value!, 0)
  before.setEnd(range.startContainer, range.startOffset)
  const from = before.toString().length
  marked.value = markOf(heard.value, from, from + text.length)
}
const box = ref<HTMLElement>()
const kinds = [
  { value: 'version.main', label: 'the version of the firmware' },
  { value: 'serial', label: 'the serial' },
  { value: 'hardware', label: 'the hardware revision' },
  { value: 'deviceIdentifier', label: 'what it is' },
]
const names: Record<string, string> = {
  'version.main': 'Firmware',
  serial: 'Serial',
  hardware: 'Hardware',
  deviceIdentifier: 'Device',
}
const say = (field: string) => {
  if (marked.value) use({ field, label: names[field]!, ...marked.value })
  marked.value = null
}
const byOptions = [
  { value: 'prompt', label: 'a prompt, without a line end' },
  { value: 'line', label: 'a whole line' },
]
</script>

<template>
  <div class="version grid gap-2.5">
    <form class="flex gap-2.5 flex-wrap items-center" @submit.prevent="send">
      <NInput
        :value="page.sends"
        class="mono w-65"
        placeholder="version"
        :input-props="{ 'aria-label': 'What you type' }"
        @update:value="setPage({ sends: $event })"
      />
      <NButton attr-type="submit" :disabled="!terminal.open.value" :loading="asking.busy.value"
        >Send it</NButton
      >
      <span v-if="!terminal.open.value" class="small soft">Open the terminal below first.</span>
    </form>
    <ProblemNote v-if="asking.problem.value" :problem="asking.problem.value" />
    <template v-if="heard">
      <p class="small soft">
        Mark a part of it with the mouse, or with Shift and the arrow keys, and say what it is.
      </p>
      <!-- eslint-disable-next-line vue/html-indent -- the blanks are the unit's own -->
      <pre
        ref="box"
        class="mono heard m-0 py-2.5 px-3 line-a-edge rounded bg-sheet whitespace-pre-wrap wrap-anywhere max-h-55 overflow-auto"
        tabindex="0"
        aria-label="What came back"
        @mouseup="mark"
        @keyup="mark"
        >{{ heard }}</pre>
      <div v-if="marked" class="flex gap-2.5 flex-wrap items-center" role="status">
        <span><b class="mono">{{ marked.value }}</b> is</span>
        <NButton v-for="kind in kinds" :key="kind.value" size="small" @click="say(kind.value)">{{
          kind.label
        }}</NButton>
      </div>
      <ul v-if="offered.length" class="plain">
        <li
          v-for="each in offered"
          :key="each.field"
          class="grid py-1.5 gap-3 grid-cols-[minmax(0,1fr)_minmax(0,1fr)_auto] items-center line-b"
        >
          <span>{{ each.label }}: <b class="mono">{{ each.value }}</b></span>
          <span class="mono small soft">{{ each.template }}</span>
          <NButton size="small" @click="use(each)">Yes, use it</NButton>
        </li>
      </ul>
    </template>
    <p v-else-if="asking.busy.value" role="status" class="soft">Waiting for what it says…</p>

    <div v-for="fact in page.facts" :key="fact.field" class="flex gap-2.5 flex-wrap items-end">
      <NFormItem :label="`${fact.label}, {value} where it stands`" class="flex-1 min-w-55">
        <NInput
          :value="fact.reads"
          class="mono"
          :input-props="{ 'aria-label': `${fact.label}, {value} where it stands` }"
          @update:value="use({ field: fact.field, label: fact.label, template: $event, value: fact.seen })"
        />
      </NFormItem>
      <NButton quaternary size="small" @click="drop(fact.field)">Remove</NButton>
    </div>
    <div class="flex gap-2.5 flex-wrap items-center">
      <NButton
        v-if="!page.facts.some(({ field }) => field === 'version.main')"
        quaternary
        size="small"
        @click="use({ field: 'version.main', label: 'Firmware', template: 'fw {value}', value: '' })"
        >Write the line of the version by hand</NButton
      >
    </div>
    <div class="flex gap-2.5 flex-wrap items-center">
      <NFormItem label="Its answers end with" class="by min-w-57.5">
        <PickOne
          label="How its answers end"
          :value="ends?.by ?? null"
          :options="byOptions"
          placeholder="not known"
          @update:value="$event && teach.change({ ends: { by: $event, text: ends?.text ?? '' } })"
        />
      </NFormItem>
      <NFormItem v-if="ends" label="Its text">
        <NInput
          :input-props="{ 'aria-label': 'Its text' }"
          :value="ends.text"
          class="mono"
          @update:value="teach.change({ ends: { by: ends.by, text: $event } })"
        />
      </NFormItem>
      <NFormItem label="A line that refuses, with {reason}">
        <NInput
          :input-props="{ 'aria-label': 'A line that refuses, with {reason}' }"
          :value="teach.draft.value.refused ?? ''"
          placeholder="not known"
          class="mono"
          @update:value="teach.change({ refused: $event.trim() === '' ? null : $event })"
        />
      </NFormItem>
    </div>
  </div>
</template>

<style scoped>
.heard {
  user-select: text;
}
</style>
