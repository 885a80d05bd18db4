<script setup lang="ts">
import { isProblem } from '@bench-wake/core/kernel'
import type { DataState } from '@bench-wake/server'
import { NButton, NInput, NTable } from 'naive-ui'
import { onMounted, reactive, ref, shallowRef } from 'vue'
import AskFirst from '../parts/AskFirst.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import VerdictMark from '../parts/VerdictMark.vue'
import { sizeText, whenText } from '../parts/written'

const state = shallowRef<DataState | null>(null)
const { busy, problem, ask } = useAsked()
const done = ref('')
const restarting = ref(false)
const load = () =>
  ask(async () => {
    state.value = await got<DataState>(api.data.$get())
  })
onMounted(load)

const backUp = () =>
  ask(async () => {
    const { name } = await got<{ name: string }>(api.data.backups.$post())
    state.value = await got<DataState>(api.data.$get())
    done.value = `${name} was made and checked.`
  })

const restartMs = 500
/** A backup in which something is damaged, to be restored all the same. */
const damagedBackup = ref<string | null>(null)
const restore = (name: string, despiteDamage = false) =>
  ask(async () => {
    damagedBackup.value = null
    const before = state.value?.restored?.at
    try {
      await got(api.data.restore.$post({ json: { name, despiteDamage } }))
    } catch (error) {
      if (isProblem(error) && error.facts.kind === 'backup-damaged') damagedBackup.value = name
      throw error
    }
    restarting.value = true
    // The program closes its data and opens them again: its own word says when, and on which.
    for (let tries = 0; tries < 240; tries++) {
      await new Promise((next) => setTimeout(next, restartMs))
      const now = await got<DataState>(api.data.$get()).catch(() => null)
      if (now?.restored && now.restored.at !== before) break
    }
    location.reload()
  })

/** How far every record and every stored file was checked since the start. */
const checkedText = ({ at, runs, files }: DataState['sweep']) =>
  at === null
    ? `Checking records: ${runs.checked} of ${runs.total} runs, ${files.checked} files so far.`
    : `Checked ${whenText(at)}: ${runs.total} runs and ${files.checked} files.`

const texts = reactive<Record<number, Record<string, string>>>({})
/** Texts of a row that may be mended: those that hold JSON. */
async function open(id: number) {
  const { row } = await got<{ row: Record<string, unknown> }>(
    api.data.damage[':id'].$get({ param: { id: String(id) } }),
  )
  texts[id] = Object.fromEntries(
    Object.entries(row).flatMap(([column, value]) => {
      const text = typeof value === 'object' && value !== null ? (value as { text?: string }).text : value
      return typeof text === 'string' ? [[column, text]] : []
    }),
  )
}
const putBack = (id: number) =>
  ask(async () => {
    state.value = await got<DataState>(
      api.data.damage[':id']['put-back'].$post({
        param: { id: String(id) },
        json: { mended: texts[id] ?? {} },
      }),
    )
    done.value = 'The row is back in its place.'
  })
const drop = (id: number) =>
  ask(async () => {
    state.value = await got<DataState>(api.data.damage[':id'].$delete({ param: { id: String(id) } }))
  })
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <h1>This bench’s data</h1>
        <p v-if="state?.database" class="soft">
          <span class="mono">{{ state.database.path }}</span>, {{ sizeText(state.database.bytes)
          }}<template v-if="state.freeBytes !== null"
            >; {{ sizeText(state.freeBytes) }} free on its disk</template
          >
        </p>
        <p v-else-if="state" class="soft">They are on a server. The person who keeps it makes its backups.</p>
      </div>
      <NButton v-if="state?.database" type="primary" size="large" :loading="busy" @click="backUp"
        >Back up now</NButton
      >
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <AskFirst v-if="damagedBackup" @yes="restore(damagedBackup, true)">
      <template #trigger><NButton>Restore it despite the damage</NButton></template>
      What is named above stays damaged. Everything else in this backup is whole.
    </AskFirst>
    <p v-if="restarting" role="status">Restarting on the backup…</p>
    <p v-else-if="done" role="status">{{ done }}</p>
    <p v-if="state?.restored" role="status">
      Restored {{ whenText(state.restored.at) }}. {{ state.restored.says }}
    </p>
    <p v-if="state" class="soft">{{ checkedText(state.sweep) }}</p>
    <p v-if="!state && !problem" class="soft" role="status">Loading…</p>

    <section v-if="state?.damage.length" class="grid py-4.5 gap-3 line-t">
      <h2><VerdictMark verdict="hold" quiet /> Damaged data</h2>
      <p class="soft">
        Damaged rows are set aside so that they stop nothing else. Correct a row and restore it, or add it
        again from its source.
      </p>
      <div
        v-for="row in state.damage"
        :key="row.id ?? row.key"
        class="grid gap-y-2 gap-x-5 grid-cols-[1fr_auto] items-start"
      >
        <div>
          <b>{{ row.table }}, {{ row.key }}</b>
          <p class="small soft">{{ row.why }}</p>
        </div>
        <div v-if="row.id !== undefined" class="acts gap-2">
          <NButton v-if="!texts[row.id]" @click="ask(() => open(row.id!))">Show row</NButton>
          <NButton tag="a" :href="`/api/data/damage/${row.id}`" download>Save row</NButton>
          <AskFirst @yes="drop(row.id)">
            <template #trigger><NButton>Delete row</NButton></template>
            This deletes the row permanently. Save it first.
          </AskFirst>
        </div>
        <p v-else class="small soft grid gap-2.5 col-span-full justify-items-start">
          It stays in its place: the run or the image that it belongs to shows the damage and proves nothing.
        </p>
        <form
          v-if="row.id !== undefined && texts[row.id]"
          class="grid gap-2.5 col-span-full justify-items-start"
          @submit.prevent="putBack(row.id)"
        >
          <label v-for="(_, column) in texts[row.id]" :key="column" class="w-full">
            {{ column }}
            <NInput
              :value="texts[row.id]![column] ?? ''"
              type="textarea"
              class="mono"
              :autosize="{ minRows: 1, maxRows: 8 }"
              @update:value="texts[row.id]![column] = $event"
            />
          </label>
          <NButton type="primary" attr-type="submit" :loading="busy">Restore this row</NButton>
        </form>
      </div>
    </section>

    <section v-if="state?.database" class="grid py-4.5 gap-3 line-t">
      <h2>Backups</h2>
      <p class="soft">
        One is made automatically each day, and one before every update. Each is checked before it counts. On
        a terminal: <span class="mono">npm run restore</span>
      </p>
      <p v-if="state.trouble" class="plain"><VerdictMark verdict="hold" quiet /> {{ state.trouble }}</p>
      <NTable v-if="state.backups.length" v-columns :bordered="false" class="list">
        <thead>
          <tr>
            <th>Made</th>
            <th>Name</th>
            <th>Size</th>
            <th />
          </tr>
        </thead>
        <tbody>
          <tr v-for="file in state.backups" :key="file.name">
            <td>{{ whenText(file.at) }}</td>
            <td class="mono wrap-anywhere">{{ file.name }}</td>
            <td>{{ sizeText(file.bytes) }}</td>
            <td>
              <AskFirst @yes="restore(file.name)">
                <template #trigger><NButton>Restore</NButton></template>
                The program restarts on this backup. Today’s data are kept in a folder beside it.
              </AskFirst>
            </td>
          </tr>
        </tbody>
      </NTable>
      <p v-else class="soft">No backup yet.</p>
    </section>
  </div>
</template>
