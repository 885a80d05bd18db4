<script setup lang="ts">
import { lineText, usualSpeeds, type SerialSettings } from '@bench-wake/core/link'
import { useIntervalFn } from '@vueuse/core'
import { NButton, NInput, NProgress } from 'naive-ui'
import { computed, ref } from 'vue'
import { api, got } from '../../stores/api'
import PickOne from '../PickOne.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'

/** Listens at the usual speeds and says which one gives sense. */
const { port, begin } = defineProps<{
  port: string | null
  /** What lets the port go before it is searched. */
  begin: () => Promise<unknown>
}>()
const emit = defineEmits<{ found: [settings: SerialSettings] }>()
interface Heard {
  settings: SerialSettings
  count: number
  sample: string
  readable: number | null
}
const asking = useAsked()
const sends = ref('\r')
/** What many a unit wants before it says anything. */
const command = ref('')
const heard = ref<Heard[]>([])
const best = ref<SerialSettings | null>(null)
const done = ref(false)
const eachMs = 600
const startedAt = ref(0)
const now = ref(0)
const ticking = useIntervalFn(() => (now.value = Date.now()), 200, { immediate: false })
const leftMs = computed(() => Math.max(0, startedAt.value + usualSpeeds.length * (eachMs + 30) - now.value))
const share = computed(() =>
  Math.min(99, Math.round((100 * (now.value - startedAt.value)) / (usualSpeeds.length * (eachMs + 30)))),
)
const find = () =>
  asking.ask(async () => {
    await begin()
    done.value = false
    heard.value = []
    startedAt.value = now.value = Date.now()
    ticking.resume()
    try {
      const found = await got<{ heard: Heard[]; best: SerialSettings | null }>(
        api.ports['find-speed'].$post({
          json: { port: port!, sends: sends.value && command.value + sends.value, eachMs },
        }),
      )
      heard.value = found.heard.filter(({ count }) => count > 0)
      best.value = found.best
      done.value = true
      if (found.best) emit('found', found.best)
    } finally {
      ticking.pause()
    }
  })
const ways = [
  { value: '\r', label: 'Send a carriage return at each speed' },
  { value: '\n', label: 'Send a line feed at each speed' },
  { value: '', label: 'Only listen' },
]
const printed = (text: string) =>
  text
    .replace(/[^\x20-\x7e]+/g, ' · ')
    .trim()
    .slice(0, 60)
</script>

<template>
  <div class="grid gap-2.5">
    <div class="flex gap-2.5 flex-wrap">
      <PickOne v-model:value="sends" label="What is sent" class="max-w-80" :options="ways" />
      <NInput
        v-if="sends"
        v-model:value="command"
        class="mono max-w-65"
        placeholder="Command before it"
        :input-props="{ 'aria-label': 'Command before it, if any', maxlength: 40, spellcheck: false }"
      />
      <NButton :disabled="!port" :loading="asking.busy.value" @click="find">Find the speed</NButton>
    </div>
    <div v-if="asking.busy.value" role="status">
      <NProgress :percentage="share" :show-indicator="false" :height="6" />
      <span class="small soft">about {{ Math.ceil(leftMs / 1000) }} s left</span>
    </div>
    <template v-else-if="done">
      <p class="text-lead" role="status">
        {{
          best
            ? `It talks at ${lineText(best)}.`
            : heard.length
              ? 'At no speed was it text. It may talk in bytes, or the wires are swapped.'
              : 'Nothing came at any speed. Many units answer to a command only: put one from the manual in. Or switch it on while this runs, or swap transmit and receive.'
        }}
      </p>
      <ul v-if="heard.length" class="plain">
        <li
          v-for="each in heard"
          :key="each.settings.baudRate"
          class="grid py-1 gap-2.5 grid-cols-[80px_150px_minmax(0,1fr)] items-baseline line-b wrap-anywhere"
        >
          <span class="mono">{{ each.settings.baudRate }}</span>
          <span class="small soft"
            >{{ each.count }} bytes, {{ Math.round(100 * (each.readable ?? 0)) }} % text</span
          >
          <span class="mono small">{{ printed(each.sample) }}</span>
        </li>
      </ul>
    </template>
    <ProblemNote v-if="asking.problem.value" :problem="asking.problem.value" />
  </div>
</template>
