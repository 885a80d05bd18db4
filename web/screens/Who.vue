<script setup lang="ts">
import type { Session } from '@bench-wake/server'
import { useIntervalFn, useNow } from '@vueuse/core'
import { NButton, NFormItem, NInput, NSelect, NTable } from 'naive-ui'
import { toString as drawQr } from 'qrcode'
import { computed, ref, shallowRef, watch } from 'vue'
import AskFirst from '../parts/AskFirst.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import WritingForm from '../parts/WritingForm.vue'
import { useAsked } from '../parts/useAsked'
import { useAccess } from '../stores/access'
import { api, got } from '../stores/api'
import { useLook } from '../stores/look'
import { whenText } from '../parts/written'

const look = useLook()
const access = useAccess()
const { busy, problem, ask } = useAsked()
const devices = shallowRef<Session[] | null>(null)
const load = async () => {
  devices.value = await got<Session[]>(api.access.devices.$get())
}
const session = computed(() => access.state?.session ?? null)
// Who is signed in may be told after this screen was opened.
watch(
  () => session.value?.id,
  (id) => id && void ask(load),
  { immediate: true },
)

/** Under which address the second device finds this program: this page's own, unless that is this computer alone. */
const own = location.hostname
const alone = ['localhost', '127.0.0.1', '[::1]'].includes(own)
const isAddress = (name: string) => /^[\d.]+$/.test(name)
// A phone finds an address; this computer's name only where the network knows it.
const hosts = computed(() => {
  const names = access.state?.names ?? []
  const near = [...names.filter(isAddress), ...names.filter((name) => !isAddress(name))]
  return [...new Set([...(alone ? [] : [own]), ...near])]
})
const host = ref<string | null>(null)
watch(hosts, ([first]) => (host.value ??= first ?? null), { immediate: true })

const offered = ref<{ code: string; endsAt: number } | null>(null)
const drawing = ref('')
const now = useNow({ interval: 1000 })
const secondsLeft = computed(() =>
  offered.value ? Math.max(0, Math.floor((offered.value.endsAt - now.value.getTime()) / 1000)) : 0,
)
const link = computed(() =>
  offered.value && host.value
    ? `${location.protocol}//${host.value}${location.port ? `:${location.port}` : ''}/join#code=${offered.value.code}`
    : '',
)
watch(link, async (text) => {
  drawing.value = text ? await drawQr(text, { type: 'svg', margin: 2, errorCorrectionLevel: 'M' }) : ''
})
let before = 0
const offer = () =>
  ask(async () => {
    if (!devices.value) await load()
    before = devices.value?.length ?? 0
    offered.value = await got<{ code: string; endsAt: number }>(api.access.pairings.$post())
  })
// The device that scanned it shows up by itself, and the code is then used up.
useIntervalFn(() => {
  if (!offered.value) return
  if (secondsLeft.value === 0) offered.value = null
  else
    void load()
      .then(() => {
        if ((devices.value?.length ?? 0) > before) offered.value = null
      })
      .catch(() => {})
}, 1500)

const end = (id: string) =>
  ask(async () => {
    devices.value = await got<Session[]>(api.access.devices[':id'].$delete({ param: { id } }))
  }, 'It is signed out.')
const signOut = () =>
  ask(async () => {
    await got(api.access['sign-out'].$post())
    await access.load()
  })
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <h1>Who works here</h1>
        <p class="soft">
          {{
            session
              ? `${session.person}, on ${session.device}. This name goes under every word you give.`
              : 'This name goes under every release, closing and answer. It stays in this browser.'
          }}
        </p>
      </div>
      <NButton v-if="session" size="large" :loading="busy" @click="signOut">Sign out</NButton>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <NFormItem v-if="!session" label="Your name" class="name max-w-90" :show-feedback="false">
      <NInput
        v-model:value="look.name"
        placeholder=""
        :input-props="{ 'aria-label': 'Your name', autocomplete: 'name' }"
      />
    </NFormItem>
    <template v-else>
      <section class="grid py-4.5 gap-3 line-t justify-items-start">
        <h2>A second device</h2>
        <p class="soft">
          A phone or a tablet beside the unit shows what this device shows. It scans a code, once, and is in.
        </p>
        <div v-if="offered" class="offer flex gap-7 flex-wrap">
          <!-- eslint-disable-next-line vue/no-v-html -- drawn here from a link of our own -->
          <div class="code w-65" role="img" aria-label="Code for the second device" v-html="drawing" />
          <div>
            <NFormItem v-if="hosts.length > 1" label="It finds this program as" :show-feedback="false">
              <NSelect
                v-model:value="host"
                :options="hosts.map((value) => ({ label: value, value }))"
                :input-props="{ 'aria-label': 'Address for the second device' }"
              />
            </NFormItem>
            <p class="text-large font-650">{{ secondsLeft }} s left</p>
            <p class="soft">Without a camera, open this there:</p>
            <p class="mono link wrap-anywhere max-w-[52ch]">{{ link }}</p>
            <NButton @click="offered = null">Close</NButton>
          </div>
        </div>
        <NButton v-else type="primary" size="large" :loading="busy" @click="offer">Show a code</NButton>
      </section>
      <section class="grid py-4.5 gap-3 line-t justify-items-start">
        <h2>Signed in</h2>
        <NTable v-if="devices" v-columns :bordered="false" class="list">
          <thead>
            <tr>
              <th>Device</th>
              <th>Who</th>
              <th>Since</th>
              <th>Seen</th>
              <th />
            </tr>
          </thead>
          <tbody>
            <tr v-for="each in devices" :key="each.id">
              <td>{{ each.device }}<template v-if="each.id === session.id">, this one</template></td>
              <td>{{ each.person }}</td>
              <td>{{ whenText(each.at) }}</td>
              <td>{{ whenText(each.seenAt) }}</td>
              <td>
                <AskFirst v-if="each.id !== session.id" @yes="end(each.id)">
                  <template #trigger><NButton>Sign it out</NButton></template>
                  It has to join anew then. A write that it follows goes on.
                </AskFirst>
              </td>
            </tr>
          </tbody>
        </NTable>
        <p v-else class="soft" role="status">Looking who is signed in…</p>
      </section>
    </template>
    <WritingForm />
  </div>
</template>

<style scoped>
.offer > div:last-child {
  display: grid;
  gap: 8px;
  align-content: start;
  justify-items: start;
  min-width: 0;
}
.code {
  background: #fff;
}
</style>
