<script setup lang="ts">
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
    done.value = `${name} is made and was looked through.`
  })

const restartMs = 500
const restore = (name: string) =>
  ask(async () => {
    await got(api.data.restore.$post({ json: { name } }))
    restarting.value = true
    // It ends, and comes back on the other database.
    for (let tries = 0; tries < 120; tries++) {
      await new Promise((next) => setTimeout(next, restartMs))
      const well = await got<{ ok: boolean }>(api.health.$get()).catch(() => null)
      if (well && tries > 1) break
    }
    location.reload()
  })

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
        <p v-else-if="state" class="soft">They lie on a server; who keeps it makes its backups.</p>
      </div>
      <NButton v-if="state?.database" type="primary" size="large" :loading="busy" @click="backUp"
        >Back up now</NButton
      >
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-if="restarting" role="status">The program starts anew on the backup…</p>
    <p v-else-if="done" role="status">{{ done }}</p>
    <p v-if="!state && !problem" class="soft" role="status">Looking at the data…</p>

    <section v-if="state?.damage.length" class="grid py-4.5 gap-3 line-t">
      <h2><VerdictMark verdict="hold" quiet /> What could not be read</h2>
      <p class="soft">
        It was set aside, so that it takes nothing else with it. Mend it and put it back, or bring it in anew.
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
          <NButton v-if="!texts[row.id]" @click="ask(() => open(row.id!))">Look at it</NButton>
          <NButton tag="a" :href="`/api/data/damage/${row.id}`" download>Save it</NButton>
          <AskFirst @yes="drop(row.id)">
            <template #trigger><NButton>Forget it</NButton></template>
            It is gone for good then. Save it first.
          </AskFirst>
        </div>
        <p v-else class="small soft grid gap-2.5 col-span-full justify-items-start">
          It stays in its place, because a record is never taken apart; the run shows where it broke.
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
        One a day by itself, and one before every update; each is looked through before it counts. On a
        terminal: <span class="mono">npm run restore</span>
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
                <template #trigger><NButton>Bring it back</NButton></template>
                What was done since then is set aside beside it, and the program starts anew.
              </AskFirst>
            </td>
          </tr>
        </tbody>
      </NTable>
      <p v-else class="soft">There is none yet.</p>
    </section>
  </div>
</template>
