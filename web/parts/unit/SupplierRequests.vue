<script setup lang="ts">
import { dayAt } from '@bench-wake/core/kernel'
import { requestText, type SupplierRequest } from '@bench-wake/core/fit'
import type { FamilyDocument } from '@bench-wake/core/family'
import type { KnownUnit } from '@bench-wake/server'
import { NButton, NInput } from 'naive-ui'
import { computed, onMounted, reactive, ref } from 'vue'
import { api, got } from '../../stores/api'
import { useBench } from '../../stores/bench'
import PickOne from '../PickOne.vue'
import PickDay from '../PickDay.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import VerdictMark from '../VerdictMark.vue'
import { dayText } from '../written'

/** What was asked of a supplier for this unit, what was answered and by whom (PRACTICE B8, L1). */
const { unit, family, requests } = defineProps<{
  unit: KnownUnit
  family: FamilyDocument
  requests: SupplierRequest[]
}>()
const emit = defineEmits<{ changed: [] }>()
const bench = useBench()
const adding = ref(false)
const answering = ref<string | null>(null)
const closing = ref<string | null>(null)
const inDays = (days: number) => dayAt(Date.now(), days)
const form = reactive({ asked: '', of: '', dueDay: inDays(14) })
const answer = reactive({ says: '', by: '' })
const imageId = ref('')
const comes = computed(() => [
  { value: '', label: 'Nothing came; given up' },
  ...(bench.images ?? []).map(({ id, name }) => ({ value: id, label: name })),
])
const { busy, problem, ask } = useAsked()
onMounted(() => bench.loadImages())

const overdue = (request: SupplierRequest) => request.dueDay < inDays(0)
const done = async () => {
  adding.value = false
  answering.value = closing.value = null
  Object.assign(form, { asked: '', of: '' })
  Object.assign(answer, { says: '', by: '' })
  emit('changed')
}
const add = () =>
  ask(async () => {
    await got(api.requests.$post({ json: { unitId: unit.id, ...form } }))
    await done()
  })
const keepAnswer = (id: string) =>
  ask(async () => {
    await got(api.requests[':id'].answer.$post({ param: { id }, json: { ...answer } }))
    await done()
  })
const reopen = (id: string) =>
  ask(async () => {
    await got(api.requests[':id'].reopen.$post({ param: { id } }))
    await done()
  })
/** Unit, serial and what is on it stand in it already: a supplier asks for these first. */
const begin = () => {
  form.asked ||= requestText(unit, family)
  adding.value = true
}
const nameOf = (id: string | null) => bench.images?.find((image) => image.id === id)?.name
const close = (id: string) =>
  ask(async () => {
    await got(api.requests[':id'].close.$post({ param: { id }, json: { imageId: imageId.value || null } }))
    await done()
  })
</script>

<template>
  <section class="mt-6.5">
    <h2>Asked of suppliers</h2>
    <ul v-if="requests.length" class="mt-1.5 mb-3 mx-0 p-0 list-none">
      <li
        v-for="request in requests"
        :key="request.id"
        class="grid py-2 gap-3 grid-cols-[14px_1fr] line-b"
        :data-request="request.id"
      >
        <VerdictMark
          class="mt-1"
          :verdict="request.closedAt !== null ? 'go' : overdue(request) ? 'hold' : 'unknown'"
          quiet
        />
        <div>
          <p>
            {{ request.asked }}
            <span class="small soft"
              >of {{ request.of }}, {{ dayText(request.askedAt) }};
              {{
                request.closedAt !== null
                  ? `settled ${dayText(request.closedAt)}`
                  : `${overdue(request) ? 'was due' : 'due'} ${dayText(request.dueDay)}`
              }}</span
            >
          </p>
          <p v-if="request.answer" class="mt-0.5">
            {{ request.answer.by || 'Nobody signed it' }}, {{ dayText(request.answer.at) }}: “{{
              request.answer.says
            }}”
          </p>
          <p v-else-if="request.closedAt === null" class="soft">No answer yet.</p>
          <form
            v-if="answering === request.id"
            class="form grid my-2 gap-2 max-w-115"
            @submit.prevent="keepAnswer(request.id)"
          >
            <NInput
              v-model:value="answer.says"
              placeholder="What was answered"
              :input-props="{ 'aria-label': 'What was answered' }"
            />
            <NInput
              v-model:value="answer.by"
              placeholder="By whom, by name"
              :input-props="{ 'aria-label': 'By whom' }"
            />
            <NButton attr-type="submit" :loading="busy" :disabled="!answer.says.trim()">Save answer</NButton>
          </form>
          <form
            v-else-if="closing === request.id"
            class="form grid my-2 gap-2 max-w-115"
            @submit.prevent="close(request.id)"
          >
            <PickOne v-model:value="imageId" label="What came of it" :options="comes" filterable />
            <NButton attr-type="submit" :loading="busy">Settle it</NButton>
          </form>
          <p v-else-if="request.closedAt !== null" class="small soft">
            {{ nameOf(request.imageId) ? `${nameOf(request.imageId)} came.` : 'Nothing came.' }}
            <NButton size="small" quaternary @click="reopen(request.id)">Open it again</NButton>
          </p>
          <p v-else class="acts mt-1.5">
            <NButton size="small" @click="answering = request.id">Write down an answer</NButton>
            <NButton size="small" @click="closing = request.id">Settle it</NButton>
          </p>
        </div>
      </li>
    </ul>
    <p v-else class="soft">Nothing is awaited.</p>
    <form v-if="adding" class="form grid my-2 gap-2 max-w-115" @submit.prevent="add">
      <NInput
        v-model:value="form.asked"
        type="textarea"
        :autosize="{ minRows: 2 }"
        placeholder="What you ask for"
        :input-props="{ 'aria-label': 'What you ask for' }"
      />
      <NInput v-model:value="form.of" placeholder="Of whom" :input-props="{ 'aria-label': 'Of whom' }" />
      <label class="small soft"
        >Wanted by <PickDay :day="form.dueDay" @update:day="(day) => day && (form.dueDay = day)"
      /></label>
      <NButton
        type="primary"
        attr-type="submit"
        :loading="busy"
        :disabled="!form.asked.trim() || !form.of.trim()"
        >Save request</NButton
      >
      <NButton @click="adding = false">Cancel</NButton>
    </form>
    <NButton v-else @click="begin">Ask a supplier</NButton>
    <ProblemNote v-if="problem" :problem="problem" />
  </section>
</template>
