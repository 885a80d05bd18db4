<script setup lang="ts">
import { type Fit } from '@bench-wake/core/fit'
import { heaviestFirst, verdictOf, bestFirst } from '@bench-wake/core/kernel'
import type { JobView, ShelfImage } from '@bench-wake/server'
import { NButton } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { api, got } from '../../stores/api'
import { useBench } from '../../stores/bench'
import FindingList from '../FindingList.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import VerdictMark from '../VerdictMark.vue'
import { verdictWords } from '../words'
import { dayText, written } from '../written'

const { view } = defineProps<{ view: JobView }>()
const emit = defineEmits<{ chosen: [] }>()
const bench = useBench()
const { busy, problem, ask } = useAsked()
type Judged = Pick<Fit, 'verdict' | 'findings' | 'path'> & { imageId: string }
const fits = ref(new Map<string, Judged>())
const all = ref(false)

onMounted(() =>
  ask(async () => {
    await bench.loadImages()
    await bench.loadFamilies()
    // Where all components go together, an image of any of them is a step of the way.
    const query = family.value?.updates.together ? {} : { component: view.job.componentId }
    const judged = await got<Judged[]>(api.fit.unit[':id'].$get({ param: { id: view.unit.id }, query }))
    fits.value = new Map(judged.map((each) => [each.imageId, each]))
  }),
)
const family = computed(() => bench.families?.find(({ id }) => id === view.unit.familyId))
/** Named where the family has several. */
const partOf = (image: ShelfImage) =>
  family.value && family.value.components.length > 1 && image.identity?.familyId === family.value.id
    ? `${family.value.components.find(({ id }) => id === image.identity?.componentId)?.name}: `
    : ''
const sorted = computed(() =>
  [...(bench.images ?? [])].sort(
    (a, b) => bestFirst(verdict(a), verdict(b)) || Number(isTest(a)) - Number(isTest(b)) || newer(a, b),
  ),
)
/** Images of other equipment are out of the way until somebody looks for them. */
const own = computed(() =>
  sorted.value.filter(({ identity }) => !identity || identity.familyId === view.unit.familyId),
)
const listed = computed(() => (all.value || own.value.length === 0 ? sorted.value : own.value))
/** What fits first; a test release behind every production release (PRACTICE B4). */
const verdict = (image: ShelfImage) => fits.value.get(image.id)?.verdict ?? 'unknown'
const isTest = (image: ShelfImage) => image.identity?.release === 'test'
const newer = (a: ShelfImage, b: ShelfImage) => (b.identity?.buildTime ?? 0) - (a.identity?.buildTime ?? 0)
/** Any image of this kind of unit may be compared with it; onto it goes only what fits. */
const comparing = computed(() => view.job.task === 'check')
const usable = (image: ShelfImage) =>
  comparing.value || !['stop', 'unknown'].includes(fits.value.get(image.id)?.verdict ?? 'unknown')
/** The heaviest finding; where all is go, where it leads. */
function why(image: ShelfImage): string {
  const findings = fits.value.get(image.id)?.findings
  if (!findings) return 'Judging…'
  const worst = heaviestFirst(findings)[0]
  return (
    (worst?.level === 'go' ? findings.find(({ rule }) => rule === 'version-direction') : worst)?.says ?? ''
  )
}

const choose = (image: ShelfImage) => take(image.id)
const take = (imageId: string) =>
  ask(async () => {
    await got(api.jobs[':id'].$patch({ param: { id: view.job.id }, json: { imageId } }))
    emit('chosen')
  })
</script>

<template>
  <p class="where">Image, for {{ view.unit.name }}</p>
  <h2 class="say">
    {{
      comparing
        ? 'Choose the image to compare with.'
        : view.fit?.verdict === 'stop'
          ? 'This image must not go on.'
          : 'Choose the image.'
    }}
  </h2>
  <p v-if="comparing && view.image && view.need.finding.level === 'stop'" class="lead">
    {{ written(view.need.finding.says) }} {{ written(view.need.finding.because) }}
  </p>
  <FindingList v-if="view.fit" :findings="view.fit.findings.filter(({ level }) => level !== 'go')" />
  <p v-if="view.came" class="came">
    {{ view.came.imageName }} has come, as asked of {{ view.came.of }}.
    <NButton :loading="busy" @click="take(view.came.imageId)">Use it</NButton>
  </p>
  <h3 class="mt-3.5">On the shelf{{ comparing ? '' : ', what fits first' }}</h3>
  <ul class="mt-0 mb-3.5 mx-0 p-0 list-none">
    <li
      v-for="(image, index) in listed"
      :key="image.id"
      class="grid py-2.5 gap-3 grid-cols-[16px_1fr_auto] items-center line-b min-h-16"
      :data-verdict="fits.get(image.id)?.verdict"
      :data-image="image.id"
    >
      <VerdictMark :verdict="verdictOf(fits.get(image.id)?.findings ?? [])" :size="16" quiet />
      <div>
        <p class="title text-lead">
          {{ partOf(image) }}{{ image.identity?.version ?? 'no version' }}, hardware
          {{ image.identity?.hardwareMajor ?? 'not known'
          }}<template v-if="image.identity?.release && image.identity.release !== 'production'"
            >, {{ image.identity.release }} release</template
          ><template v-if="(fits.get(image.id)?.path.length ?? 0) > 1"
            >, {{ fits.get(image.id)!.path.length }} writes</template
          >
          <span class="mono soft small ml-2.5">{{ image.names.join(', ') }}</span>
        </p>
        <p v-if="!comparing" class="small soft">
          {{ verdictWords[verdictOf(fits.get(image.id)?.findings ?? [])] }}: {{ why(image) }}
        </p>
      </div>
      <NButton
        v-if="usable(image)"
        :data-primary="index === 0 || undefined"
        :type="index === 0 ? 'primary' : 'default'"
        :loading="busy"
        @click="choose(image)"
      >
        Take this one
      </NButton>
    </li>
  </ul>
  <p v-if="listed.length < sorted.length" class="soft">
    {{ sorted.length - listed.length }} images of other equipment are left out.
    <NButton size="small" @click="all = true">Show them too</NButton>
  </p>
  <p v-if="view.requests.length" class="soft">
    Awaited:
    {{
      view.requests
        .map(({ asked, of, dueDay }) => `${asked.replace(/\.$/, '')}, of ${of}, due ${dayText(dueDay)}`)
        .join('; ')
    }}.
    <RouterLink :to="{ name: 'unit', params: { id: view.unit.id } }">What was answered</RouterLink>
  </p>
  <p class="soft">Not here? <RouterLink :to="{ name: 'shelf' }">Drop it onto the shelf.</RouterLink></p>
  <ProblemNote v-if="problem" :problem="problem" />
</template>
