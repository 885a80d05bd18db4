<script setup lang="ts">
import { clockText, durationText, verdictAfter, type Release, type Verdict } from '@bench-wake/core/kernel'
import type { Gate } from '@bench-wake/core/ready'
import type { JobView } from '@bench-wake/server'
import { NButton, NInput } from 'naive-ui'
import { computed, reactive, ref } from 'vue'
import { useBench } from '../../stores/bench'
import { useLook } from '../../stores/look'
import FindingList from '../FindingList.vue'
import BenchPower from './BenchPower.vue'
import PathList from './PathList.vue'
import PortChoice from '../PortChoice.vue'
import VerdictMark from '../VerdictMark.vue'
import { verdictWords } from '../words'

const port = defineModel<string | null>('port', { required: true })
const speed = defineModel<number>('speed', { required: true })
const releases = defineModel<Release[]>('releases', { required: true })
const { view, gates } = defineProps<{ view: JobView; gates: Gate[] | null; busy: boolean }>()
defineEmits<{ start: []; said: [] }>()

const bench = useBench()
const look = useLook()
const releasing = ref<string | null>(null)
const word = reactive({ name: look.name, reason: '' })

const chosen = computed(() => bench.ports?.find(({ id }) => id === port.value))
const findings = computed(() => (gates ?? []).flatMap((gate) => gate.findings))
const notGo = computed(() => findings.value.filter(({ level }) => level !== 'go'))
const verdict = computed<Verdict>(() =>
  !gates || gates.some((gate) => gate.verdict === 'unknown')
    ? 'unknown'
    : verdictAfter(findings.value, releases.value),
)
const open = computed(() => verdict.value === 'go' || verdict.value === 'note')
const hop = computed(() => view.next)
const family = computed(() => bench.families?.find(({ id }) => id === view.unit.familyId))
const driven = computed(() => family.value?.links.some(({ kind }) => kind === 'serial') ?? true)
const component = computed(
  () => family.value?.components.find(({ id }) => id === hop.value?.componentId)?.name ?? '',
)
const says = computed(() => {
  if (!gates) return 'Judging the bench…'
  if (open.value) return `Ready: ${component.value} ${hop.value?.from ?? 'not known'} to ${hop.value?.to}.`
  if (verdict.value === 'hold') return 'Held. Mend it, or release it by name.'
  return verdict.value === 'stop' ? 'Stop. Not with the bench like this.' : 'Not known yet.'
})
/** What a meter shows at the chosen port. */
const metered = computed(() =>
  chosen.value?.hasMeter ? (gates?.find(({ id }) => id === 'power')?.numbers['supplyVolts'] ?? null) : null,
)
const widest = computed(() => Math.max(...view.plan.map((step) => step.predictedMs + step.personMs), 1))

function release() {
  if (!releasing.value || !word.name.trim() || !word.reason.trim()) return
  look.name = word.name.trim()
  releases.value = [
    ...releases.value,
    { rule: releasing.value, name: word.name.trim(), reason: word.reason.trim() },
  ]
  releasing.value = null
  word.reason = ''
}
</script>

<template>
  <p class="where">Bench, before the first byte</p>
  <h2 class="say calm"><VerdictMark :verdict="verdict" :size="24" /> {{ says }}</h2>
  <div v-if="driven" class="acts">
    <PortChoice v-model="port" :unit-id="view.unit.id" />
    <label v-if="chosen?.kind === 'stand-in'" class="speed">
      <span class="visually-hidden">Speed of the stand-in</span>
      <select v-model.number="speed" class="native">
        <option :value="1">as in life</option>
        <option :value="10">10 times as fast</option>
        <option :value="60">60 times as fast</option>
        <option :value="0">unpaced</option>
      </select>
    </label>
    <NButton
      data-primary
      type="primary"
      size="large"
      :disabled="!open || !port"
      :loading="busy"
      @click="$emit('start')"
    >
      Start the run
    </NButton>
  </div>
  <FindingList
    v-if="notGo.length"
    :findings="notGo"
    :releases="releases"
    releasable
    @release="releasing = $event"
  />
  <form v-if="releasing" class="release" @submit.prevent="release">
    <p class="small soft">Releasing “{{ releasing }}”. Your name and the reason go into the wake.</p>
    <NInput v-model:value="word.name" placeholder="Your name" :input-props="{ 'aria-label': 'Your name' }" />
    <NInput
      v-model:value="word.reason"
      placeholder="Why it may pass"
      :input-props="{ 'aria-label': 'Reason' }"
    />
    <NButton attr-type="submit" :disabled="!word.name.trim() || !word.reason.trim()"
      >Release the hold</NButton
    >
    <NButton quaternary @click="releasing = null">Leave it held</NButton>
  </form>
  <details v-if="gates" class="all">
    <summary>
      <span
        v-for="gate in gates"
        :key="gate.id"
        class="gate"
        :data-gate="gate.id"
        :data-verdict="gate.verdict"
      >
        <VerdictMark :verdict="gate.verdict" quiet /> {{ gate.name }}: {{ verdictWords[gate.verdict] }}
      </span>
    </summary>
    <FindingList :findings="findings" :releases="releases" />
  </details>
  <BenchPower
    v-if="family && view.stretches.length"
    :view="view"
    :family="family"
    :metered="metered"
    @said="$emit('said')"
  />
  <PathList
    v-if="view.fit && (view.fit.path.length > 1 || !view.plan.length)"
    :fit="view.fit"
    :family="family"
  />
  <section v-if="view.plan.length" class="plan">
    <h3>
      The plan{{ view.fit && view.fit.path.length > 1 ? ` of the next write, ${hop?.imageName}` : '' }}:
      {{ durationText(view.time.aloneMs) }} alone, {{ durationText(view.time.personMs) }} of your hands
    </h3>
    <ol>
      <li v-for="step in view.plan" :key="step.kind">
        <span>{{ step.says }}</span>
        <span class="bar" aria-hidden="true">
          <i :style="{ width: `${(step.predictedMs / widest) * 100}%` }" />
          <i class="person" :style="{ width: `${(step.personMs / widest) * 100}%` }" />
        </span>
        <span class="time">{{ clockText(step.predictedMs + step.personMs) }}</span>
        <span class="small soft">{{ step.handsOff ? 'hands off' : step.personMs ? 'needs you' : '' }}</span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.release {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  padding: 12px 0;
}
.release p {
  width: 100%;
}
.release :deep(.n-input) {
  width: 220px;
}
.gate {
  display: inline-block;
  white-space: nowrap;
  margin-right: 22px;
}
summary {
  cursor: pointer;
  min-height: 44px;
  line-height: 44px;
}
.plan {
  border-top: 1px solid var(--hair);
  margin-top: 10px;
  padding-top: 18px;
}
.plan ol {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}
.plan li {
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) 1fr 56px 72px;
  gap: 14px;
  align-items: center;
  padding: 6px 0;
}
.bar {
  display: flex;
  gap: 1px;
}
.bar i {
  height: 10px;
  background: var(--hull);
  min-width: 1px;
}
.bar .person {
  background: none;
  border: 1px solid var(--edge);
}
.bar .person[style*=' 0%'] {
  display: none;
}
.time {
  text-align: right;
}
@media (max-width: 700px) {
  .plan li {
    grid-template-columns: 1fr 56px;
  }
  .bar,
  .plan li .small {
    display: none;
  }
}
</style>
