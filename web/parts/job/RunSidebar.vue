<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'
import { stripOf } from '@bench-wake/core/record'
import type { Gate } from '@bench-wake/core/ready'
import { supplyNow, type RunState } from '@bench-wake/core/run'
import type { JobView } from '@bench-wake/server'
import { computed } from 'vue'
import { useBench } from '../../stores/bench'
import SupplyGauge from '../SupplyGauge.vue'
import VerdictMark from '../VerdictMark.vue'
import WakeStrip from '../WakeStrip.vue'
import { durationText, fixed } from '../written'

const { view, run, gates, family, portId } = defineProps<{
  view: JobView
  run: RunState | null
  gates: Gate[] | null
  family: FamilyDocument | undefined
  portId: string | null
}>()
const bench = useBench()
const portName = computed(
  () => run?.facts.port.name ?? bench.ports?.find(({ id }) => id === portId)?.name ?? 'not chosen',
)

const power = computed(() => gates?.find(({ id }) => id === 'power')?.numbers)
/** Nobody has measured: the figures rest on the description of the supply alone. */
const estimated = computed(
  () =>
    !(run && supplyNow(run)) &&
    gates?.some(({ findings }) => findings.some(({ rule }) => rule === 'supply-measured')) === true,
)
/** Read in the run, else measured for the gate, else worked out from what was said of it. */
const supply = computed(() => {
  const inRun = run ? supplyNow(run) : null
  if (inRun) return inRun
  const { supplyVolts, floorVolts, lastByteVolts } = power.value ?? {}
  return supplyVolts === undefined || floorVolts === undefined
    ? null
    : { now: supplyVolts, floor: floorVolts, lowest: null, atLastByte: lastByteVolts ?? null }
})
const top = computed(() =>
  Math.max((family?.power.nominalVolts ?? 12) * 1.08, (supply.value?.now ?? 0) + 0.15),
)
const sags = computed(() => {
  const { now, atLastByte } = supply.value ?? {}
  return now === undefined || atLastByte === null || atLastByte === undefined ? null : now - atLastByte
})
</script>

<template>
  <aside class="pt-6.5 pb-5 px-6" aria-label="What is watched">
    <h2 class="mb-1 small font-650 soft">Supply at the terminals</h2>
    <template v-if="supply">
      <p class="mb-1.5 text-title font-650 leading-[1.1]">
        {{ fixed(supply.now, 2) }}
        <span class="text-body font-400 soft"
          >V{{
            run && run.outcome === 'running' ? ' now' : estimated ? ', not measured' : ', last read'
          }}</span
        >
      </p>
      <SupplyGauge
        :now="supply.now"
        :floor="supply.floor"
        :at-end="supply.atLastByte"
        :top="top"
        :live="run?.outcome === 'running'"
        :word="estimated ? 'estimated' : 'measured'"
      />
      <p class="mt-2 mb-5 small soft">
        <template v-if="sags !== null && sags > 0.005"
          >Sags {{ fixed(sags, 2) }} V more before the end.</template
        >
        <template v-else-if="supply.lowest !== null">Lowest so far {{ fixed(supply.lowest, 2) }} V.</template>
        <template v-else-if="estimated">Worked out from what was said of it. Measure it.</template>
        <template v-else>Measured with the unit idle; it sags in the write.</template>
      </p>
    </template>
    <template v-else>
      <p class="mb-1.5 text-large font-650 leading-[1.1]">
        <VerdictMark verdict="unknown" :size="22" /> not known
      </p>
      <p class="mt-2 mb-5 small soft">
        Nobody measures it. The floor is {{ family ? fixed(family.power.floorVolts, 2) : '?' }} V at the
        unit’s terminals.
      </p>
    </template>
    <dl class="mt-0 mb-5.5 mx-0">
      <div class="grid py-2.5 gap-3.5 grid-cols-[auto_1fr] line-t">
        <dt class="soft">Port</dt>
        <dd class="m-0 text-right wrap-anywhere">{{ portName }}</dd>
      </div>
      <div class="grid py-2.5 gap-3.5 grid-cols-[auto_1fr] line-t">
        <dt class="soft">Retries</dt>
        <dd class="m-0 text-right wrap-anywhere">{{ run ? run.retries.length : 'none yet' }}</dd>
      </div>
      <div class="grid py-2.5 gap-3.5 grid-cols-[auto_1fr] line-t">
        <dt class="soft">Hands-on</dt>
        <dd class="m-0 text-right wrap-anywhere">
          {{ view.plan.length ? durationText(view.time.personMs) : 'not known'
          }}<small v-if="view.stays.length > 1">, {{ durationText(view.whole.personMs) }} in all</small>
        </dd>
      </div>
      <div class="grid py-2.5 gap-3.5 grid-cols-[auto_1fr] line-t">
        <dt class="soft">Unattended</dt>
        <dd class="m-0 text-right wrap-anywhere">
          {{ view.plan.length ? durationText(view.time.aloneMs) : 'not known'
          }}<small v-if="view.stays.length > 1">, {{ durationText(view.whole.aloneMs) }} in all</small>
        </dd>
      </div>
    </dl>
    <template v-if="view.runs.length">
      <h2 class="mb-1 small font-650 soft">Runs of this job</h2>
      <WakeStrip
        v-for="each in view.runs"
        :key="each.id"
        :strip="stripOf(run && run.facts.runId === each.id ? run : each.state)"
        :width="210"
        :height="24"
        label="Run"
      />
    </template>
  </aside>
</template>
