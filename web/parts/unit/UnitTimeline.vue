<script setup lang="ts">
import type { LogbookRow } from '@bench-wake/core/record'
import { timeMarks, type UnitHistory } from '@bench-wake/core/unit'
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import TipBubble from '../TipBubble.vue'
import { useTip } from '../useTip'
import { dayText, durationText, markText, whenText } from '../written'

/** A unit over the years: which version each part had, its runs, and when it kept fault codes. */
const { history, runs } = defineProps<{ history: UnitHistory; runs: readonly LogbookRow[] }>()

interface Bar {
  key: string
  from: number
  to?: number
  colour: string
  says: string
  text?: string
  runId?: string
}
const rows = computed((): { label: string; bars: Bar[] }[] =>
  [
    ...history.parts.map(({ field, label, stretches }) => ({
      label,
      bars: stretches.map(({ version, from, to }, index) => ({
        key: `${field} ${from}`,
        from,
        to,
        colour: index % 2 === 0 ? 'bg-hull' : 'bg-soft',
        text: version,
        says: `${label} ${version}, ${whenText(from)} to ${whenText(to)}`,
      })),
    })),
    {
      label: 'Runs',
      bars: runs.map(({ startedAt, outcome, trouble, tookMs, runId }) => ({
        key: runId,
        from: startedAt,
        colour:
          outcome === 'proved' || outcome === 'done'
            ? 'bg-go'
            : outcome === 'running'
              ? 'bg-brass'
              : 'bg-stop',
        says: `Run of ${whenText(startedAt)}, ${durationText(tookMs)}: ${trouble ?? 'proved'}`,
        runId,
      })),
    },
    {
      label: 'Fault codes',
      bars: history.faults.map(({ at, text }) => ({
        key: `${at} ${text}`,
        from: at,
        colour: 'bg-hold',
        says: `${whenText(at)}: ${text}`,
      })),
    },
  ].filter(({ bars }) => bars.length > 0),
)
const span = computed(() => {
  const ends = rows.value.flatMap(({ bars }) => bars.flatMap(({ from, to }) => [from, to ?? from]))
  const [from, to] = [Math.min(...ends), Math.max(...ends)]
  return { from, to: to > from ? to : from + 86_400_000 }
})
const share = (at: number) => ((at - span.value.from) * 100) / (span.value.to - span.value.from)
/** A run takes minutes where a year is drawn: as wide as it needs to be seen and met. */
const place = ({ from, to }: Bar) => ({
  left: `min(${share(from)}%, calc(100% - 10px))`,
  width: `max(${to === undefined ? 0 : share(to) - share(from)}%, 10px)`,
})
/** Width of a small letter or digit, rounded up, px. */
const letterPx = 8
const axis = ref<HTMLElement>()
const { width } = useElementSize(axis)
const marks = computed(() => {
  const { from, to } = span.value
  const { turns, at } = timeMarks(from, to, Math.floor((width.value || 700) / 100))
  if (at.length > 1)
    return at.map((moment) => {
      const text = markText(moment, turns)
      const room = (width.value || 700) * (1 - share(moment) / 100)
      // Where its words would be cut at the edge, the line alone stands.
      const fits = room >= text.length * letterPx + 6
      return { at: moment, left: `${share(moment)}%`, text: fits ? text : '', line: 'line-l' }
    })
  // Where no two fit, both ends are named.
  return [
    { at: from, left: '0', text: dayText(from), line: '' },
    { at: to, left: 'calc(100% - 80px)', text: dayText(to), line: '' },
  ]
})
const { tip, named } = useTip()
const says = computed(() => {
  const parts = history.parts.map(
    ({ label, stretches }) => `${label}: ${stretches.map(({ version }) => version).join(', then ')}`,
  )
  return [...parts, `${runs.length} ${runs.length === 1 ? 'run' : 'runs'}`].join('. ')
})
</script>

<template>
  <div role="group" :aria-label="says" class="w-full grid grid-cols-[auto_minmax(0,1fr)]">
    <template v-for="row in rows" :key="row.label">
      <span class="small soft line-t pt-2.5 pr-3 max-w-37 wrap-anywhere">{{ row.label }}</span>
      <div class="relative h-10 line-t" data-track>
        <i
          v-for="mark in marks"
          :key="mark.at"
          class="absolute top-0 bottom-0"
          :class="mark.line"
          :style="{ left: mark.left }"
        />
        <template v-for="bar in row.bars" :key="bar.key">
          <RouterLink
            v-if="bar.runId"
            :to="{ name: 'record', params: { id: bar.runId } }"
            class="absolute top-1.5 bottom-1.5 rounded"
            :class="bar.colour"
            :style="place(bar)"
            :aria-label="bar.says"
            v-on="named(bar.says)"
          />
          <span
            v-else
            role="img"
            class="absolute top-1.5 bottom-1.5 rounded px-1 small leading-7 text-paper overflow-hidden whitespace-nowrap text-ellipsis"
            :class="bar.colour"
            :style="place(bar)"
            :aria-label="bar.says"
            v-on="named(bar.says)"
            >{{ bar.text }}</span
          >
        </template>
      </div>
    </template>
    <TipBubble v-if="tip" v-bind="tip" />
    <span />
    <div ref="axis" class="relative h-7 line-t overflow-hidden" aria-hidden="true">
      <span
        v-for="mark in marks"
        :key="mark.at"
        class="absolute pt-1 pl-1 small soft whitespace-nowrap"
        :class="mark.line"
        :style="{ left: mark.left }"
        >{{ mark.text }}</span
      >
    </div>
  </div>
</template>
