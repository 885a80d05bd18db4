<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'
import { settingFault, settingRule } from '@bench-wake/core/ready'
import { bytesText } from '@bench-wake/core/kernel'
import type { JobFile } from '@bench-wake/server'
import { NButton, NFormItem, NInput } from 'naive-ui'
import { computed, onMounted, reactive, shallowRef } from 'vue'
import { api, got } from '../../stores/api'
import FilePick from '../FilePick.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import type { BenchDesk } from './bench-inputs'
import { written } from '../written'

/** Settings that the update erases: photographed, kept as a file or typed before, and shown where they are put back (PRACTICE G3, J2). */
const { jobId, settings, desk, readonly } = defineProps<{
  jobId: string
  settings: NonNullable<NonNullable<FamilyDocument['backup']>['settings']>
  desk: BenchDesk
  /** True where they are put back: nothing more is kept then. */
  readonly?: boolean
}>()
const files = shallowRef<JobFile[] | null>(null)
const sending = useAsked()
const loading = useAsked()
const load = async () => {
  files.value = await got<JobFile[]>(api.jobs[':id'].settings.$get({ param: { id: jobId } }))
}
onMounted(() => loading.ask(load))
const pathOf = ({ id }: JobFile) => `/api/jobs/${jobId}/settings/${id}`
const isPhoto = ({ type }: JobFile) => type.startsWith('image/')

const keep = (chosen: readonly File[]) =>
  sending.ask(async () => {
    for (const file of chosen) {
      const body = new FormData()
      body.append('file', file)
      await got(fetch(`/api/jobs/${jobId}/settings`, { method: 'POST', body }))
    }
    await load()
  })
const remove = (file: JobFile) =>
  sending.ask(async () => {
    await got(
      api.jobs[':id'].settings[':file{[0-9]+}'].$delete({ param: { id: jobId, file: String(file.id) } }),
    )
    await load()
  })

const fields = computed(() => settings.fields ?? [])
const typed = reactive<Record<string, string>>(
  Object.fromEntries((desk.say.settings ?? []).map(({ field, value }) => [field, value])),
)
const faultOf = (id: string) => {
  const field = fields.value.find((each) => each.id === id)
  const value = typed[id]
  return field && value ? settingFault(field, value) : null
}
/** Only what the unit will take again is kept. */
const say = () => {
  const said = fields.value.flatMap(({ id: field }) => {
    const value = typed[field]
    return value && faultOf(field) === null ? [{ field, value }] : []
  })
  desk.tell('settings', said)
}
const shown = computed(() =>
  fields.value.flatMap(({ id, name }) => {
    const value = desk.say.settings?.find(({ field }) => field === id)?.value
    return value ? [{ id, name, value }] : []
  }),
)
</script>

<template>
  <section
    v-if="!readonly || shown.length || files?.length"
    class="my-3.5 pt-3.5 line-t"
    :aria-label="readonly ? 'Settings as they were' : 'Settings to keep'"
  >
    <h3>{{ readonly ? 'Settings as they were' : 'Settings that the update erases' }}</h3>
    <p class="small soft">{{ written(readonly ? settings.back : settings.says) }}</p>
    <template v-if="readonly">
      <dl v-if="shown.length">
        <div v-for="each in shown" :key="each.id" class="grid py-1 gap-4 grid-cols-[180px_1fr]">
          <dt>{{ each.name }}</dt>
          <dd class="mono m-0">{{ each.value }}</dd>
        </div>
      </dl>
    </template>
    <div v-else-if="fields.length" class="flex gap-y-0 gap-x-5 flex-wrap">
      <NFormItem
        v-for="field in fields"
        :key="field.id"
        :label="field.name"
        :feedback="faultOf(field.id) ?? settingRule(field)"
        v-bind="faultOf(field.id) ? { validationStatus: 'error' as const } : {}"
      >
        <NInput
          :value="typed[field.id] ?? ''"
          :input-props="{ 'aria-label': field.name }"
          placeholder=""
          @update:value="((typed[field.id] = $event), say())"
        />
      </NFormItem>
    </div>
    <ul v-if="files?.length" class="flex my-2 mx-0 p-0 gap-3 list-none flex-wrap">
      <li v-for="file in files" :key="file.id" class="grid gap-1 justify-items-start">
        <a :href="pathOf(file)" target="_blank" rel="noopener">
          <img v-if="isPhoto(file)" class="block w-37.5 h-27.5 line-a" :src="pathOf(file)" :alt="file.name" />
          <span v-else class="mono">{{ file.name }}, {{ bytesText(file.bytes) }}</span>
        </a>
        <NButton v-if="!readonly" size="small" quaternary @click="remove(file)">Remove</NButton>
      </li>
    </ul>
    <template v-if="!readonly">
      <FilePick label="Photo or file of the settings" multiple @all="keep">
        <NButton :loading="sending.busy.value">Add a photo or file</NButton>
      </FilePick>
    </template>
    <ProblemNote v-if="sending.problem.value" :problem="sending.problem.value" />
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
  </section>
</template>

<style scoped>
img {
  object-fit: cover;
}
</style>
