<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'
import { durationText } from '@bench-wake/core/kernel'
import { stripOf } from '@bench-wake/core/record'
import type { Gate } from '@bench-wake/core/ready'
import { supplyNow, type RunState } from '@bench-wake/core/run'
import type { JobView } from '@bench-wake/server'
import { computed } from 'vue'
import { useBench } from '../../stores/bench'
import SupplyGauge from '../SupplyGauge.vue'
import VerdictMark from '../VerdictMark.vue'
import WakeStrip from '../WakeStrip.vue'

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
  <aside class="watch" aria-label="What is watched">
    <h2>Supply at the terminals</h2>
    <template v-if="supply">
      <p class="big">
        {{ supply.now.toFixed(2) }}
        <span
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
      <p class="under">
        <template v-if="sags !== null && sags > 0.005"
          >Sags {{ sags.toFixed(2) }} V more before the end.</template
        >
        <template v-else-if="supply.lowest !== null"
          >Lowest so far {{ supply.lowest.toFixed(2) }} V.</template
        >
        <template v-else-if="estimated">Worked out from what was said of it. Measure it.</template>
        <template v-else>Measured with the unit idle; it sags in the write.</template>
      </p>
    </template>
    <template v-else>
      <p class="big unknown"><VerdictMark verdict="unknown" :size="22" /> not known</p>
      <p class="under">
        Nobody measures it. The floor is {{ family ? family.power.floorVolts.toFixed(2) : '?' }} V at the
        unit’s terminals.
      </p>
    </template>
    <dl>
      <div>
        <dt>Port</dt>
        <dd>{{ portName }}</dd>
      </div>
      <div>
        <dt>Retries</dt>
        <dd>{{ run ? run.retries.length : 'none yet' }}</dd>
      </div>
      <div>
        <dt>Hands-on</dt>
        <dd>
          {{ view.plan.length ? durationText(view.time.personMs) : 'not known'
          }}<small v-if="view.stays.length > 1">, {{ durationText(view.whole.personMs) }} in all</small>
        </dd>
      </div>
      <div>
        <dt>Unattended</dt>
        <dd>
          {{ view.plan.length ? durationText(view.time.aloneMs) : 'not known'
          }}<small v-if="view.stays.length > 1">, {{ durationText(view.whole.aloneMs) }} in all</small>
        </dd>
      </div>
    </dl>
    <template v-if="view.runs.length">
      <h2>Runs of this job</h2>
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

<style scoped>
.watch {
  padding: 26px 24px 20px;
}
h2 {
  font-size: 13px;
  font-weight: 650;
  color: var(--soft);
  margin: 0 0 4px;
}
.big {
  font-size: 34px;
  font-weight: 650;
  line-height: 1.1;
  margin-bottom: 6px;
}
.big span {
  font-size: 15px;
  font-weight: 400;
  color: var(--soft);
}
.big.unknown {
  font-size: 24px;
}
.under {
  margin: 8px 0 20px;
  font-size: 13px;
  color: var(--soft);
}
dl {
  margin: 0 0 22px;
}
dl div {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 14px;
  padding: 10px 0;
  border-top: 1px solid var(--hair);
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
  text-align: right;
  overflow-wrap: anywhere;
}
</style>
