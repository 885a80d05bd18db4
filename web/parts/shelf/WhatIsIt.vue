<script setup lang="ts">
import { howTold, knownWords } from '@bench-wake/core/image'
import type { FamilyDocument } from '@bench-wake/core/family'
import type { ShelfImage } from '@bench-wake/server'
import { NButton, NForm, NFormItem, NInput, NSelect } from 'naive-ui'
import { computed, ref } from 'vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { api, got } from '../../stores/api'
import { useBench } from '../../stores/bench'
import { useLook } from '../../stores/look'
import { dayText } from '../written'

/** How it is known what an image is; and, where nothing in it tells, a person's word on it. */
const { image } = defineProps<{ image: ShelfImage }>()
const emit = defineEmits<{ changed: [] }>()
const bench = useBench()
const look = useLook()
const { busy, problem, ask } = useAsked()

const form = ref<{
  familyId: string | null
  componentId: string | null
  version: string
  hardwareMajor: number | null
  from: string
} | null>(null)
function begin() {
  const said = image.statement ?? image.identity
  form.value = {
    familyId: said?.familyId ?? null,
    componentId: said?.componentId ?? null,
    version: said?.version ?? '',
    hardwareMajor: said?.hardwareMajor ?? null,
    from: image.statement?.from ?? '',
  }
  if (form.value.familyId) choose(form.value.familyId)
}
const families = computed(() => bench.families ?? [])
const family = computed<FamilyDocument | undefined>(() =>
  families.value.find(({ id }) => id === form.value?.familyId),
)
const parts = computed(() =>
  (family.value?.components ?? []).map(({ id, name }) => ({ value: id, label: name })),
)
const revisions = computed(() =>
  (family.value?.hardware.revisions ?? []).map(({ major, name }) => ({ value: major, label: name })),
)
function choose(familyId: string) {
  const own = families.value.find(({ id }) => id === familyId)
  if (!form.value || !own) return
  form.value.familyId = familyId
  if (!own.components.some(({ id }) => id === form.value!.componentId))
    form.value.componentId = own.components[0]!.id
  if (!own.hardware.revisions.some(({ major }) => major === form.value!.hardwareMajor))
    form.value.hardwareMajor = own.hardware.revisions.length === 1 ? own.hardware.revisions[0]!.major : null
}
const missing = computed(() => {
  const own = form.value
  if (!own) return ''
  if (!own.familyId) return 'Choose the equipment it is for.'
  if (!own.from.trim()) return 'Say where you know it from.'
  if (!look.name.trim()) return 'Say who you are.'
  return ''
})
const save = () =>
  ask(async () => {
    const { familyId, componentId, version, hardwareMajor, from } = form.value!
    await got(
      api.images[':id'].statement.$post({
        param: { id: image.id },
        json: {
          familyId: familyId!,
          componentId: componentId!,
          ...(version.trim() ? { version: version.trim() } : {}),
          ...(hardwareMajor === null ? {} : { hardwareMajor }),
          by: look.name.trim(),
          from: from.trim(),
        },
      }),
    )
    form.value = null
    emit('changed')
  })
const undo = () =>
  ask(async () => {
    await got(api.images[':id'].statement.$delete({ param: { id: image.id } }))
    emit('changed')
  }, 'What was said of it is taken back.')

/** With family and version known, its digest can stand in the profile: from then on nobody has to be believed. */
const listable = computed(() => {
  const { identity, sha256 } = image
  const own = families.value.find(({ id }) => id === identity?.familyId)
  // What says itself what it is needs no list.
  const needed = identity && howTold(identity) !== 'block'
  return own && needed && identity.version && !own.releases?.some((each) => each.sha256 === sha256)
    ? own
    : null
})
const list = () =>
  ask(async () => {
    const own = listable.value!
    const { version, componentId, hardwareMajor } = image.identity!
    const release = {
      sha256: image.sha256,
      version: version!,
      component: componentId,
      ...(hardwareMajor === undefined ? {} : { hardware: hardwareMajor }),
    }
    const revised = { ...own, revision: own.revision + 1, releases: [...(own.releases ?? []), release] }
    await got(api.families.$post({ json: revised as unknown as Record<string, unknown> }))
    await bench.loadFamilies(true)
    emit('changed')
  }, 'It stands in the profile’s releases now.')
/** An identity block that says all leaves nothing to tell here: the findings do. */
const shown = computed(
  () => open.value || listable.value || (image.identity && howTold(image.identity) !== 'block'),
)
/** Something is left that a person can say. */
const open = computed(
  () =>
    !image.identity ||
    !image.identity.version ||
    image.identity.hardwareMajor === undefined ||
    image.statement,
)
</script>

<template>
  <section v-if="shown" class="known mb-3.5" aria-label="How it is known">
    <p>
      {{
        image.identity
          ? knownWords(image.identity)
          : 'Nothing tells what it is: no identity block, no text and no release of a profile.'
      }}
    </p>
    <p v-if="image.statement" class="soft small">
      {{ image.statement.by }}, {{ dayText(image.statement.at) }}: {{ image.statement.from }}
      <NButton size="small" :loading="busy" @click="undo">Undo</NButton>
    </p>
    <NForm v-if="form" @submit.prevent="missing || save()">
      <NFormItem label="Equipment">
        <NSelect
          :value="form.familyId"
          :options="families.map(({ id, name }) => ({ value: id, label: name }))"
          filterable
          placeholder="Which kind it is for"
          :input-props="{ 'aria-label': 'Equipment' }"
          @update:value="choose"
        />
      </NFormItem>
      <NFormItem v-if="parts.length > 1" label="Part">
        <NSelect v-model:value="form.componentId" :options="parts" :input-props="{ 'aria-label': 'Part' }" />
      </NFormItem>
      <NFormItem label="Version">
        <NInput
          v-model:value="form.version"
          placeholder="As the unit will say it"
          :input-props="{ 'aria-label': 'Version' }"
        />
      </NFormItem>
      <NFormItem v-if="revisions.length > 1" label="Hardware">
        <NSelect
          v-model:value="form.hardwareMajor"
          :options="revisions"
          clearable
          placeholder="Not known"
          :input-props="{ 'aria-label': 'Hardware' }"
        />
      </NFormItem>
      <NFormItem label="Where you know it from">
        <NInput
          v-model:value="form.from"
          placeholder="The supplier’s letter, the label on the stick"
          :input-props="{ 'aria-label': 'Where you know it from' }"
        />
      </NFormItem>
      <NFormItem label="Your name">
        <NInput
          v-model:value="look.name"
          placeholder="Who answers for it"
          :input-props="{ 'aria-label': 'Your name' }"
        />
      </NFormItem>
      <p class="soft small" role="status">
        {{
          missing ||
          'Every write of this image stays on hold until a named person answers for it, for a word is no proof.'
        }}
      </p>
      <div class="acts mt-2 gap-2">
        <NButton type="primary" attr-type="submit" :disabled="missing !== ''" :loading="busy">Save</NButton>
        <NButton @click="form = null">Cancel</NButton>
      </div>
    </NForm>
    <div v-else class="acts mt-2 gap-2">
      <NButton v-if="open" @click="begin">{{ image.statement ? 'Correct it' : 'Say what it is' }}</NButton>
      <NButton v-if="listable" :loading="busy" @click="list"
        >Add to the releases of {{ listable.name }}</NButton
      >
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
  </section>
</template>
