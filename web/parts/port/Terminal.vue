<script setup lang="ts">
import { asciiBytes, hexOf } from '@bench-wake/core/kernel'
import type { SerialSettings } from '@bench-wake/core/link'
import { NButton, NInput, NRadioButton, NRadioGroup } from 'naive-ui'
import { computed, nextTick, ref, watch } from 'vue'
import PickOne from '../PickOne.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import type { useTerminal } from './useTerminal'

/** What the unit says, as it says it, and a line to say something back. */
const { terminal, port, settings } = defineProps<{
  terminal: ReturnType<typeof useTerminal>
  port: string | null
  settings: SerialSettings
}>()
/** What ends a line that is sent. */
const lineEnd = defineModel<string>('lineEnd', { default: '\r' })

const asking = useAsked()
const as = ref<'text' | 'hex'>('text')
const line = ref('')
const dtr = ref(true)
const rts = ref(true)
const view = ref<HTMLElement>()
const shown = computed(() =>
  terminal.said.value.map(({ direction, text }) => ({
    direction,
    text:
      as.value === 'text'
        ? text.replace(/\r\n?/g, '\n')
        : `${(hexOf(asciiBytes(text)).match(/../g) ?? []).join(' ')} `,
  })),
)
watch(terminal.said, () => nextTick(() => view.value?.scrollTo({ top: view.value.scrollHeight })), {
  deep: true,
})
const open = () => asking.ask(() => terminal.start(port!, settings))
const close = () => asking.ask(terminal.end)
const send = () =>
  asking.ask(async () => {
    await terminal.send(
      as.value === 'hex' ? { hex: line.value } : { text: line.value, lineEnd: lineEnd.value },
    )
    line.value = ''
  })
const lines = (change: { dtr?: boolean; rts?: boolean; breakMs?: number }) =>
  asking.ask(async () => {
    await terminal.setLines(change)
    dtr.value = change.dtr ?? dtr.value
    rts.value = change.rts ?? rts.value
  })
watch(
  () => settings,
  (now) => terminal.open.value && void asking.askInTurn(() => terminal.set(now)),
  { deep: true },
)
const lineEnds = [
  { value: '\r', label: 'CR' },
  { value: '\n', label: 'LF' },
  { value: '\r\n', label: 'CR LF' },
  { value: '', label: 'nothing' },
]
</script>

<template>
  <section class="grid gap-2.5" aria-label="Terminal">
    <div class="flex gap-2.5 flex-wrap items-center">
      <NButton v-if="!terminal.open.value" :disabled="!port" :loading="asking.busy.value" @click="open"
        >Open the terminal</NButton
      >
      <template v-else>
        <NButton @click="close">Close</NButton>
        <NButton quaternary @click="terminal.clear">Clear</NButton>
        <NRadioGroup v-model:value="as" size="small" name="terminal-as">
          <NRadioButton value="text">Text</NRadioButton>
          <NRadioButton value="hex">Hex</NRadioButton>
        </NRadioGroup>
        <span class="flex-1" />
        <NButton size="small" :type="dtr ? 'primary' : 'default'" ghost @click="lines({ dtr: !dtr })"
          >DTR {{ dtr ? 'on' : 'off' }}</NButton
        >
        <NButton size="small" :type="rts ? 'primary' : 'default'" ghost @click="lines({ rts: !rts })"
          >RTS {{ rts ? 'on' : 'off' }}</NButton
        >
        <NButton size="small" @click="lines({ breakMs: 250 })">Break</NButton>
      </template>
    </div>
    <!-- eslint-disable vue/html-indent -- the blanks are the unit's own -->
    <pre
      v-if="terminal.open.value"
      ref="view"
      class="mono said m-0 py-2.5 px-3 h-47.5 overflow-auto line-a rounded whitespace-pre-wrap wrap-anywhere"
      tabindex="0"
      role="log"
      aria-label="What goes over the port"
    ><span v-for="(each, index) in shown" :key="index" :class="each.direction">{{ each.text }}</span><span v-if="!shown.length" class="soft">Nothing came yet. Send a line, or switch the unit on.</span></pre>
    <!-- eslint-enable vue/html-indent -->
    <form v-if="terminal.open.value" class="flex gap-2.5 flex-wrap items-center" @submit.prevent="send">
      <NInput
        v-model:value="line"
        class="mono line flex-1 min-w-45"
        :placeholder="as === 'hex' ? '55 0D' : 'A line to send'"
        :input-props="{ 'aria-label': 'Line to send', autocomplete: 'off', spellcheck: false }"
      />
      <PickOne
        v-if="as === 'text'"
        v-model:value="lineEnd"
        label="Line end"
        class="w-27.5"
        :options="lineEnds"
      />
      <NButton attr-type="submit" type="primary" :loading="asking.busy.value">Send</NButton>
    </form>
    <p v-if="terminal.open.value" class="small soft">
      Nothing judges what you send here: it is your own hand at the unit.
    </p>
    <ProblemNote v-if="asking.problem.value" :problem="asking.problem.value" />
  </section>
</template>

<style scoped>
.said .out {
  color: var(--brass);
}
</style>
