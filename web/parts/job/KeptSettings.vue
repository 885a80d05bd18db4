<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'
import { settingFault, settingRule } from '@bench-wake/core/ready'
import { bytesText } from '@bench-wake/core/kernel'
import type { JobFile } from '@bench-wake/server'
import { NButton, NFormItem, NInput } from 'naive-ui'
import { computed, onMounted, reactive, ref } from 'vue'
import { api, got } from '../../stores/api'
import FilePick from '../FilePick.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import type { BenchDesk } from './bench-inputs'

/** Settings that the update erases: photographed, kept as a file or typed before, and shown where they are put back (PRACTICE G3, J2). */
const { jobId, settings, desk, readonly } = defineProps<{
  jobId: string
  settings: NonNullable<NonNullable<FamilyDocument['backup']>['settings']>
  desk: BenchDesk
  /** True where they are put back: nothing more is kept then. */
  readonly?: boolean
}>()
const files = ref<JobFile[] | null>(null)
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
    class="settings"
    :aria-label="readonly ? 'Settings as they were' : 'Settings to keep'"
  >
    <h3>{{ readonly ? 'Settings as they were' : 'Settings that the update erases' }}</h3>
    <p class="small soft">{{ readonly ? settings.back : settings.says }}</p>
    <template v-if="readonly">
      <dl v-if="shown.length">
        <div v-for="each in shown" :key="each.id">
          <dt>{{ each.name }}</dt>
          <dd class="mono">{{ each.value }}</dd>
        </div>
      </dl>
    </template>
    <div v-else-if="fields.length" class="fields">
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
    <ul v-if="files?.length">
      <li v-for="file in files" :key="file.id">
        <a :href="pathOf(file)" target="_blank" rel="noopener">
          <img v-if="isPhoto(file)" :src="pathOf(file)" :alt="file.name" />
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
.settings {
  border-top: 1px solid var(--hair);
  padding-top: 14px;
  margin: 14px 0;
}
.fields {
  display: flex;
  flex-wrap: wrap;
  gap: 0 20px;
}
ul {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  margin: 8px 0;
  padding: 0;
}
li {
  display: grid;
  gap: 4px;
  justify-items: start;
}
img {
  display: block;
  width: 150px;
  height: 110px;
  object-fit: cover;
  border: 1px solid var(--hair);
}
dl div {
  display: grid;
  grid-template-columns: 180px 1fr;
  gap: 16px;
  padding: 4px 0;
}
dd {
  margin: 0;
}
</style>
