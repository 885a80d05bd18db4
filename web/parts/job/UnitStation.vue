<script setup lang="ts">
import { drivesLink, onHardware, type FamilyDocument } from '@bench-wake/core/family'
import { verdictAfter } from '@bench-wake/core/kernel'
import { shutLinkOf, standing } from '@bench-wake/core/job'
import { gatesBeforeLink, type Adapter } from '@bench-wake/core/ready'
import type { JobView } from '@bench-wake/server'
import { NButton } from 'naive-ui'
import { computed, nextTick, onMounted, provide, ref, shallowRef, watch } from 'vue'
import { familyOf } from '../family-of'
import { api, got } from '../../stores/api'
import { useBench } from '../../stores/bench'
import FindingList from '../FindingList.vue'
import PlugNow from '../PlugNow.vue'
import PortChoice from '../PortChoice.vue'
import ProblemNote from '../ProblemNote.vue'
import PageEntry from '../unit/PageEntry.vue'
import { useAsked } from '../useAsked'
import { verdictWords } from '../words'
import { benchDesk, useBenchSay } from './bench-inputs'
import LinkParts from './LinkParts.vue'
import ReleaseDialog from './ReleaseDialog.vue'
import { whenText } from '../written'

const port = defineModel<string | null>('port', { required: true })
const { view, family } = defineProps<{ view: JobView; family: FamilyDocument | undefined }>()
const emit = defineEmits<{
  read: []
  said: []
  /** What stands in the way has changed: the one next thing takes the focus. */
  judged: []
}>()

const desk = useBenchSay(view.job.id, view.bench, () => emit('said'))
provide(benchDesk, desk)
const adapters = shallowRef<Adapter[]>([])
const drawer = useAsked()
onMounted(() => drawer.ask(async () => (adapters.value = await got<Adapter[]>(api.adapters.$get()))))

const bench = useBench()
const described = computed(() =>
  family ? onHardware(familyOf(family), view.unit.facts.hardwareMajor) : null,
)
/** Whether this program reads the unit over a link by itself. */
const driven = computed(() => family?.links.some(drivesLink) ?? true)
/** True once the port was chosen by itself, where one was. */
const settled = ref(false)
onMounted(() => nextTick(() => (settled.value = true)))
const gates = computed(() =>
  // Which port it is decides whether anything is joined: before the ports are known nothing is judged.
  described.value && drawer.reading.value === false && settled.value && bench.ports
    ? gatesBeforeLink({
        family: described.value,
        said: desk.say,
        adapters: adapters.value,
        workshopRules: view.workshopRules,
        now: Date.now(),
        standIn: bench.ports?.find(({ id }) => id === port.value)?.kind === 'stand-in',
      })
    : null,
)
const findings = computed(() => gates.value?.flatMap((gate) => gate.findings) ?? [])
const releases = computed(() => standing(view.job.releases, findings.value))
const shut = computed(() => shutLinkOf(gates.value ?? [], view.job.releases))
const firstPart = computed(
  () => gates.value?.find((gate) => shut.value[0] && gate.findings.includes(shut.value[0]))?.id ?? null,
)
watch([gates, () => shut.value[0]?.rule], () => emit('judged'), { flush: 'post' })
/** Where something stands in the way the list comes first, and stays there while it is worked off. */
const above = ref(false)
watch(gates, (now, before) => {
  if (now && !before) above.value = shut.value.length > 0
})
const verdict = computed(() => verdictAfter(findings.value, releases.value))
const dialog = ref<InstanceType<typeof ReleaseDialog>>()
const release = (rule: string) => dialog.value?.ask(findings.value.find((each) => each.rule === rule))

const way = ref<'type' | 'paste' | null>(null)
const { busy, problem, ask } = useAsked()
const read = () =>
  ask(async () => {
    // What stands is on the server first: it judges the same.
    await desk.flush()
    await got(
      api.units[':id'].snapshots.$post({
        param: { id: view.unit.id },
        json: { port: port.value!, jobId: view.job.id },
      }),
    )
    emit('read')
  })
</script>

<template>
  <p class="where">Unit, before the link is opened</p>
  <h2 class="say">Read what the unit says of itself.</h2>
  <p class="lead">{{ view.job.reason }}</p>
  <template v-if="driven && shut[0]">
    <FindingList :findings="[shut[0]]" :releases="releases" releasable @release="release" />
    <p class="small soft mb-3 ml-6.5">
      The link stays shut until that is right<template v-if="shut.length > 1"
        >, and {{ shut.length - 1 }} more below</template
      >. Label, screen and app can be read meanwhile.
    </p>
  </template>
  <template v-for="part in above ? ['list', 'reading'] : ['reading', 'list']" :key="part">
    <section
      v-if="part === 'list' && driven && described && gates"
      class="mt-1.5 mb-6"
      aria-label="Before the link is opened"
    >
      <h3 class="mb-2 text-body">Before the link is opened: {{ verdictWords[verdict] }}</h3>
      <LinkParts
        :view="view"
        :family="described"
        :gates="gates"
        :adapters="adapters"
        :first-part="firstPart"
        :releases="releases"
        :shown="shut[0]"
        :asked="false"
        @release="release"
        @said="emit('said')"
      />
    </section>
    <template v-else-if="part === 'reading'">
      <div class="acts">
        <template v-if="driven">
          <PortChoice v-model="port" :unit-id="view.unit.id" />
          <NButton
            data-primary
            type="primary"
            size="large"
            :disabled="!port || shut.length > 0"
            :loading="busy"
            @click="read"
          >
            Read the unit
          </NButton>
          <PlugNow @found="port = $event" />
        </template>
        <NButton
          :data-primary="!driven || undefined"
          :type="driven ? 'default' : 'primary'"
          :size="driven ? 'medium' : 'large'"
          @click="way = 'paste'"
          >Paste its page</NButton
        >
        <NButton @click="way = 'type'">Type its page</NButton>
      </div>
      <ProblemNote v-if="problem" :problem="problem" class="mt-0 mb-4.5 mx-0" />
      <PageEntry
        v-if="way && family"
        :key="way"
        :unit-id="view.unit.id"
        :family="family"
        :way="way"
        @kept="emit('read')"
        @leave="way = null"
      />
      <p class="soft">
        <template v-if="view.unit.facts.readAt"
          >Last read {{ whenText(view.unit.facts.readAt) }}. A page that old is read again: units are swapped
          between visits.</template
        >
        <template v-else>This unit was never read. Nothing is assumed about it.</template>
      </p>
    </template>
  </template>
  <ReleaseDialog ref="dialog" :job-id="view.job.id" @released="emit('said')" />
  <ProblemNote v-if="desk.saving.problem.value" :problem="desk.saving.problem.value" />
  <ProblemNote v-if="drawer.problem.value" :problem="drawer.problem.value" />
</template>
