<script setup lang="ts">
import { addressText, verdictOf, type Finding } from '@bench-wake/core/kernel'
import { readDefinition } from '@bench-wake/core/rounds'
import type { AddedAnswer, CaseAnswer, ListedDefinition, ShelfImage } from '@bench-wake/server'
import { NButton, NInput, NProgress } from 'naive-ui'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { api, got } from '../../stores/api'
import { useLook } from '../../stores/look'
import { sendForm } from '../../stores/send-form'
import FilePick from '../FilePick.vue'
import FindingList from '../FindingList.vue'
import PickOne from '../PickOne.vue'
import ProblemNote from '../ProblemNote.vue'
import DefinitionList from './DefinitionList.vue'
import { useAsked } from '../useAsked'

/** An image that came from the calibrator, with its definition, looked at before it begins a round. */
const { view } = defineProps<{ view: CaseAnswer }>()
const emit = defineEmits<{ taken: [] }>()
const look = useLook()
const { busy, problem, ask, askInTurn } = useAsked()
const looking = useAsked()
const by = computed(() => look.name || 'Somebody')
const next = computed(() => view.state.next)

const images = shallowRef<ShelfImage[]>([])
const definitions = shallowRef<ListedDefinition[]>([])
const imageId = ref<string | null>(null)
const definitionId = ref<string | null>(view.state.rounds.at(-1)?.definitionId ?? null)
const remarks = ref('')
const despite = ref('')
const findings = shallowRef<Finding[]>([])
const share = ref<number | null>(null)
const address = ref('')
async function loadChoices(): Promise<void> {
  const [all, known] = await Promise.all([
    got<ShelfImage[]>(api.images.$get()),
    got<ListedDefinition[]>(api.definitions.$get()),
  ])
  images.value = all.filter(({ identity }) => !identity || identity.familyId === view.unit.familyId)
  definitions.value = known
  definitionId.value ??= known[0]?.id ?? null
  // A calibrator who sends plain binaries sends the next one for the same place.
  const before = all.find(({ id }) => id === view.state.rounds.at(-1)?.imageId)
  if (before?.format === 'bin' && address.value === '')
    address.value = addressText(before.segments[0]?.address ?? 0)
}
onMounted(() => ask(loadChoices))
watch([imageId, definitionId], async () => {
  findings.value = []
  despite.value = ''
  if (imageId.value === null) return
  // Behind what is under way: a file that just came is looked at as well.
  await looking.askInTurn(async () => {
    if (imageId.value === null) return
    findings.value = await got<Finding[]>(
      api.cases[':id'].revisions.look.$post({
        param: { id: view.id },
        json: { imageId: imageId.value, definitionId: definitionId.value },
      }),
    )
  })
})
const imageOptions = computed(() =>
  images.value.map(({ id, name, identity }) => ({
    value: id,
    label: identity?.version ? `${name}, ${identity.version}` : name,
  })),
)
const definitionOptions = computed(() => [
  ...definitions.value.map(({ id, name, tables }) => ({ value: id, label: `${name} (${tables} tables)` })),
  { value: '', label: 'came without a definition' },
])
const definitionChoice = computed({
  get: () => definitionId.value ?? '',
  set: (id: string) => (definitionId.value = id === '' ? null : id),
})
const verdict = computed(() => verdictOf(findings.value))
const takeFile = (file: File) =>
  askInTurn(async () => {
    const fields = {
      from: view.state.agreement.calibrator,
      ...(address.value.trim() ? { address: address.value.trim() } : {}),
    }
    try {
      const added = await sendForm<AddedAnswer>('/api/images', file, fields, (done) => (share.value = done))
      await loadChoices()
      imageId.value = added.images[0]!.id
    } finally {
      share.value = null
    }
  })
const takeDefinition = (file: File) =>
  // Behind an image that is still on its way: a file that somebody chose is not dropped.
  askInTurn(async () => {
    const text = await file.text()
    // A list of tables is no document yet: what it lacks is asked for.
    if (!/^\s*\{/.test(text)) {
      tableList.value = { name: file.name, list: text }
      return
    }
    // Says the field at fault before anything is sent.
    readDefinition(text)
    const json = JSON.parse(text) as Record<string, unknown>
    const { id } = await got<ListedDefinition>(api.definitions.$post({ json }))
    await loadChoices()
    definitionId.value = id
  })
const tableList = ref<{ name: string; list: string } | null>(null)
const listSaved = (id: string) =>
  ask(async () => {
    tableList.value = null
    await loadChoices()
    definitionId.value = id
  })
const take = () =>
  ask(async () => {
    await got(
      api.cases[':id'].revisions.$post({
        param: { id: view.id },
        json: {
          imageId: imageId.value!,
          definitionId: definitionId.value,
          remarks: remarks.value,
          by: by.value,
          ...(verdict.value === 'hold' ? { despite: despite.value.trim() } : {}),
        },
      }),
    )
    imageId.value = null
    remarks.value = ''
    emit('taken')
  })
</script>

<template>
  <form class="take grid gap-3 justify-items-start w-full" @submit.prevent="take">
    <h3>{{ next.does === 'wait' ? 'The answer came' : 'The image that came' }}</h3>
    <ProblemNote v-if="problem" :problem="problem" />
    <ProblemNote v-if="looking.problem.value" :problem="looking.problem.value" />
    <NProgress
      v-if="share !== null"
      type="line"
      :percentage="Math.round(share * 100)"
      :show-indicator="false"
    />
    <div class="pair flex gap-3 flex-wrap items-center w-full">
      <PickOne
        v-model:value="imageId"
        label="Image"
        :options="imageOptions"
        filterable
        placeholder="Choose an image of the shelf"
      />
      <FilePick label="Image file" @picked="takeFile">
        <NButton>Import a file</NButton>
      </FilePick>
      <NInput
        v-model:value="address"
        placeholder="0x… of a plain binary"
        class="mono w-50"
        :input-props="{ 'aria-label': 'Address of a plain binary' }"
      />
    </div>
    <div class="pair flex gap-3 flex-wrap items-center w-full">
      <PickOne v-model:value="definitionChoice" label="Definition" :options="definitionOptions" filterable />
      <FilePick label="Definition file" accept=".json,.csv,.txt" @picked="takeDefinition">
        <NButton>Import a definition</NButton>
      </FilePick>
    </div>
    <NInput
      v-model:value="remarks"
      type="textarea"
      placeholder="What was written with it"
      :input-props="{ 'aria-label': 'Remarks of the calibrator' }"
      :maxlength="4000"
    />
    <FindingList v-if="findings.length > 0" :findings="findings" />
    <NInput
      v-if="verdict === 'hold'"
      v-model:value="despite"
      placeholder="Why it is taken in all the same"
      :input-props="{ 'aria-label': 'Why it is taken in all the same' }"
      :maxlength="400"
    />
    <NButton
      attr-type="submit"
      :type="next.does === 'receive' ? 'primary' : 'default'"
      size="large"
      :loading="busy"
      :disabled="
        imageId === null ||
        verdict === 'stop' ||
        verdict === 'unknown' ||
        (verdict === 'hold' && !despite.trim())
      "
      >Begin round {{ view.state.rounds.length + 1 }}</NButton
    >
  </form>

  <DefinitionList
    v-if="tableList"
    :key="tableList.name"
    v-bind="tableList"
    @saved="listSaved"
    @cancel="tableList = null"
  />
</template>

<style scoped>
.pair > :first-child {
  flex: 1 1 320px;
}
.take > * {
  max-width: 100%;
}
.take > .n-input {
  width: 100%;
}
</style>
