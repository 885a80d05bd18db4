<script setup lang="ts">
import { isProblem, readQuantity } from '@bench-wake/core/kernel'
import { systemReminders } from '@bench-wake/core/ready'
import { useWakeLock } from '@vueuse/core'
import { NButton, NCheckbox, NInput } from 'naive-ui'
import { computed, inject, reactive, ref } from 'vue'
import PickOne from '../PickOne.vue'
import { benchDesk } from './bench-inputs'

/** The laptop: on mains or how long its battery lasts, kept awake, and what to set on this system (PRACTICE D3). */
const { say, keep } = inject(benchDesk)!
const typed = ref(typeof say.laptop?.minutesLeft === 'number' ? `${say.laptop.minutesLeft} min` : '')
const fault = ref<string | null>(null)

/** A bank joined to it: what is printed on it, and what the laptop draws; both or nothing. */
const bank = reactive({
  wattHours: say.laptop?.bank ? `${say.laptop.bank.wattHours} Wh` : '',
  laptopWatts: say.laptop?.bank ? `${say.laptop.bank.laptopWatts} W` : '',
})
const bankFault = ref<string | null>(null)
const changeBank = () => {
  bankFault.value = null
  const { onMains = false, minutesLeft = null } = say.laptop ?? {}
  try {
    const empty = bank.wattHours.trim() === '' || bank.laptopWatts.trim() === ''
    say.laptop = {
      onMains,
      minutesLeft,
      at: Date.now(),
      bank: empty
        ? null
        : {
            wattHours: readQuantity(bank.wattHours, 'watt-hours', { field: 'bank', min: 0, max: 100_000 }),
            laptopWatts: readQuantity(bank.laptopWatts, 'watts', { field: 'laptop', min: 0.1, max: 1000 }),
          },
    }
    keep('laptop')
  } catch (error) {
    bankFault.value = isProblem(error) ? `${error.facts.says}, ${error.facts.expected}` : String(error)
  }
}

const mains = (onMains: boolean) => {
  say.laptop = { ...say.laptop, onMains, minutesLeft: say.laptop?.minutesLeft ?? null, at: Date.now() }
  keep('laptop')
}
const minutes = (text: string) => {
  fault.value = null
  try {
    const written = /\d\s*$/.test(text) ? `${text} min` : text
    const ms =
      text.trim() === '' ? null : readQuantity(written, 'milliseconds', { field: 'laptop', min: 0, max: 6e8 })
    say.laptop = {
      ...say.laptop,
      onMains: say.laptop?.onMains ?? false,
      minutesLeft: ms === null ? null : ms / 60_000,
      at: Date.now(),
    }
    keep('laptop')
  } catch (error) {
    fault.value = isProblem(error) ? `${error.facts.says}, ${error.facts.expected}` : String(error)
  }
}

/** What the browser tells of this computer's battery, where it does. */
interface Battery {
  charging: boolean
  level: number
  dischargingTime: number
}
const battery = ref<Battery | null>(null)
const ask = (navigator as unknown as { getBattery?: () => Promise<Battery> }).getBattery
if (ask)
  void ask.call(navigator).then(
    (told) => (battery.value = told),
    () => {},
  )
const told = computed(() => {
  if (!battery.value) return null
  const { charging, level, dischargingTime } = battery.value
  const left = Number.isFinite(dischargingTime) ? `, ${Math.round(dischargingTime / 60)} min left` : ''
  return `${charging ? 'on mains' : 'on battery'}, ${Math.round(level * 100)} %${left}`
})
const takeTold = () => {
  const { charging, dischargingTime } = battery.value!
  const left = Number.isFinite(dischargingTime) ? Math.round(dischargingTime / 60) : null
  say.laptop = { ...say.laptop, onMains: charging, minutesLeft: left, at: Date.now() }
  typed.value = left === null ? '' : `${left} min`
  keep('laptop')
}

const wake = useWakeLock()
const awake = () => (wake.isActive.value ? wake.release() : wake.request('screen'))

const systems = { windows: 'Windows', mac: 'macOS', linux: 'Linux' } as const
type System = keyof typeof systems
const systemOptions = Object.entries(systems).map(([value, label]) => ({ value, label }))
const here: System = /mac/i.test(navigator.userAgent)
  ? 'mac'
  : /windows/i.test(navigator.userAgent)
    ? 'windows'
    : 'linux'
const system = ref<System>(here)
</script>

<template>
  <p class="small soft">One laptop carries every run: what is said here holds for all jobs.</p>
  <div class="grid gap-7.5 grid-cols-[1fr_1.3fr] phone:gap-2.5 phone:grid-cols-[1fr]">
    <div>
      <NCheckbox class="items-center min-h-11" :checked="say.laptop?.onMains ?? false" @update:checked="mains"
        >The laptop is on mains</NCheckbox
      >
      <label v-if="!say.laptop?.onMains" class="field max-w-60"
        >Its battery lasts
        <NInput
          v-model:value="typed"
          placeholder="90 min"
          class="mono"
          :input-props="{ 'aria-label': 'Its battery lasts' }"
          @update:value="minutes"
        />
        <small v-if="fault" class="fault">{{ fault }}</small></label
      >
      <details v-if="!say.laptop?.onMains" :open="Boolean(say.laptop?.bank)">
        <summary>A power bank feeds it</summary>
        <label class="field max-w-60"
          >Printed on the bank
          <NInput
            v-model:value="bank.wattHours"
            placeholder="99 Wh"
            class="mono"
            :input-props="{ 'aria-label': 'Printed on the bank' }"
            @update:value="changeBank"
        /></label>
        <label class="field max-w-60"
          >The laptop draws
          <NInput
            v-model:value="bank.laptopWatts"
            placeholder="20 W"
            class="mono"
            :input-props="{ 'aria-label': 'The laptop draws' }"
            @update:value="changeBank"
          />
          <small v-if="bankFault" class="fault">{{ bankFault }}</small></label
        >
      </details>
      <p v-if="told" class="small soft">
        This computer says: {{ told }}.
        <button class="textlike" type="button" @click="takeTold">Take that</button>
      </p>
      <p v-if="wake.isSupported.value">
        <NButton :aria-pressed="wake.isActive.value" @click="awake">{{
          wake.isActive.value ? 'The screen stays on: let it sleep again' : 'Keep this screen awake'
        }}</NButton>
      </p>
      <p v-else class="small soft">This browser cannot keep the screen awake: set it in the system.</p>
    </div>
    <div>
      <div class="field max-w-60">
        <span>What to set on</span>
        <PickOne v-model:value="system" label="System" :options="systemOptions" />
      </div>
      <ul class="small pl-4.5">
        <li v-for="line in systemReminders[system]" :key="line" class="py-0.75">{{ line }}</li>
      </ul>
    </div>
  </div>
</template>
