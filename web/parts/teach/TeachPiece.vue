<script setup lang="ts">
import { shortName, type TeachDraft } from '@bench-wake/core/family'
import { usualSpeeds } from '@bench-wake/core/link'
import { NFormItem, NInput, NInputNumber, NRadio, NRadioGroup } from 'naive-ui'
import PickOne from '../PickOne.vue'
import TeachOperation from './TeachOperation.vue'
import { usePiece } from './usePiece'
import type { Teach } from './useTeach'

/** The fields of one piece, as a manual has them. An empty piece is not known. */
const { teach } = defineProps<{ teach: Teach }>()

const { draft, piece, of, set } = usePiece(teach)
const about = (part: Partial<TeachDraft['about']>) =>
  teach.change({ about: { ...draft.value.about, ...part } })
/** A short name follows the name until it was written by hand. */
const rename = (name: string) =>
  about({
    name,
    ...(draft.value.about.id === shortName(draft.value.about.name) ? { id: shortName(name) } : {}),
  })

const speeds = usualSpeeds.map((value) => ({ value: value as number, label: `${value} baud` }))
const ends = [
  { value: '\r', label: 'carriage return (CR)' },
  { value: '\n', label: 'line feed (LF)' },
  { value: '\r\n', label: 'both' },
  { value: '', label: 'nothing' },
]
const parityOptions = (['none', 'even', 'odd'] as const).map((value) => ({
  value,
  label: value === 'none' ? 'no parity' : `${value} parity`,
}))
const byOptions = [
  { value: 'prompt', label: 'a prompt, without a line end' },
  { value: 'line', label: 'a whole line' },
]
</script>

<template>
  <div class="grid gap-y-0 gap-x-4.5 fill-230">
    <template v-if="piece === 'line'">
      <NFormItem label="Speed">
        <PickOne
          label="Speed"
          :value="draft.line.baudRate"
          tag
          filterable
          :options="speeds"
          @update:value="
            teach.change({ lineKnown: true, line: { ...draft.line, baudRate: Number($event) || 9600 } })
          "
        />
      </NFormItem>
      <NFormItem label="Data bits">
        <PickOne
          label="Data bits"
          :value="draft.line.dataBits"
          :options="[7, 8].map((value) => ({ value, label: String(value) }))"
          @update:value="teach.change({ lineKnown: true, line: { ...draft.line, dataBits: $event } })"
        />
      </NFormItem>
      <NFormItem label="Parity">
        <PickOne
          label="Parity"
          :value="draft.line.parity"
          :options="parityOptions"
          @update:value="teach.change({ lineKnown: true, line: { ...draft.line, parity: $event } })"
        />
      </NFormItem>
      <NFormItem label="A line that is sent ends with">
        <PickOne
          label="A line that is sent ends with"
          :value="draft.lineEnd"
          :options="ends"
          @update:value="teach.change({ lineEnd: $event })"
        />
      </NFormItem>
    </template>

    <template v-else-if="piece === 'about'">
      <NFormItem label="Name">
        <NInput
          :input-props="{ 'aria-label': 'Name' }"
          :value="draft.about.name"
          placeholder="Tide gate controller"
          @update:value="rename"
        />
      </NFormItem>
      <NFormItem label="Short name, never changed">
        <NInput
          :input-props="{ 'aria-label': 'Short name, never changed' }"
          :value="draft.about.id"
          class="mono"
          @update:value="about({ id: $event })"
        />
      </NFormItem>
      <NFormItem label="What it is, in a sentence" class="col-span-full">
        <NInput
          :input-props="{ 'aria-label': 'What it is, in a sentence' }"
          :value="draft.about.summary"
          @update:value="about({ summary: $event })"
        />
      </NFormItem>
      <NFormItem label="What every unit and image of it says it is" class="col-span-full">
        <NInput
          :input-props="{ 'aria-label': 'What every unit and image of it says it is' }"
          :value="draft.about.deviceIdentifier"
          placeholder="TG-4"
          class="mono"
          @update:value="about({ deviceIdentifier: $event })"
        />
      </NFormItem>
    </template>

    <template v-else-if="piece === 'memory'">
      <NFormItem label="First address of the firmware">
        <NInput
          :input-props="{ 'aria-label': 'First address of the firmware' }"
          :value="of('memory').address"
          placeholder="0x08008000"
          class="mono"
          @update:value="set('memory', { address: $event })"
        />
      </NFormItem>
      <NFormItem label="Length of its memory">
        <NInput
          :input-props="{ 'aria-label': 'Length of its memory' }"
          :value="of('memory').length"
          placeholder="0x40000"
          class="mono"
          @update:value="set('memory', { length: $event })"
        />
      </NFormItem>
      <NFormItem label="Bytes erased at once">
        <NInputNumber
          :input-props="{ 'aria-label': 'Bytes erased at once' }"
          :value="of('memory').sectorBytes"
          :min="1"
          :show-button="false"
          @update:value="set('memory', { sectorBytes: $event ?? 4096 })"
        />
      </NFormItem>
    </template>

    <template v-else-if="piece === 'entry'">
      <NFormItem label="How" class="col-span-full">
        <NRadioGroup
          :value="of('entry').how"
          name="entry-how"
          @update:value="
            teach.change({
              entry:
                $event === 'command'
                  ? { how: 'command', sends: '', settleMs: of('entry').settleMs }
                  : { how: 'hand', does: '', settleMs: of('entry').settleMs },
            })
          "
        >
          <NRadio value="hand">By hand</NRadio>
          <NRadio value="command">By a command to the firmware</NRadio>
        </NRadioGroup>
      </NFormItem>
      <NFormItem v-if="draft.entry?.how === 'command'" label="Command">
        <NInput
          :input-props="{ 'aria-label': 'Command' }"
          :value="draft.entry.sends"
          class="mono"
          @update:value="set('entry', { sends: $event } as never)"
        />
      </NFormItem>
      <NFormItem v-else label="What the hands do" class="col-span-full">
        <NInput
          :input-props="{ 'aria-label': 'What the hands do' }"
          :value="draft.entry?.how === 'hand' ? draft.entry.does : ''"
          placeholder="Hold the side key while you switch it on."
          @update:value="
            teach.change({ entry: { how: 'hand', does: $event, settleMs: of('entry').settleMs } })
          "
        />
      </NFormItem>
      <NFormItem label="Until the bootloader answers, ms">
        <NInputNumber
          :input-props="{ 'aria-label': 'Until the bootloader answers, ms' }"
          :value="of('entry').settleMs"
          :min="0"
          :show-button="false"
          @update:value="set('entry', { settleMs: $event ?? 1000 })"
        />
      </NFormItem>
    </template>

    <template v-else-if="piece === 'attach'">
      <NFormItem label="Sent to it (empty: a line end alone)">
        <NInput
          :input-props="{ 'aria-label': 'Sent to it (empty: a line end alone)' }"
          :value="of('attach').sends"
          class="mono"
          @update:value="set('attach', { sends: $event })"
        />
      </NFormItem>
      <NFormItem label="It shows itself by">
        <PickOne
          label="How the bootloader shows itself"
          :value="of('attach').by"
          :options="byOptions"
          @update:value="set('attach', { by: $event })"
        />
      </NFormItem>
      <NFormItem label="Its text">
        <NInput
          :input-props="{ 'aria-label': 'Its text' }"
          :value="of('attach').text"
          placeholder="boot> "
          class="mono"
          @update:value="set('attach', { text: $event })"
        />
      </NFormItem>
    </template>

    <template v-else-if="piece === 'power'">
      <NFormItem label="Nominal, V">
        <NInputNumber
          :input-props="{ 'aria-label': 'Nominal, V' }"
          :value="of('power').nominalVolts"
          :min="0.1"
          :show-button="false"
          @update:value="set('power', { nominalVolts: $event ?? 12 })"
        />
      </NFormItem>
      <NFormItem label="Floor: no write below it, V">
        <NInputNumber
          :input-props="{ 'aria-label': 'Floor: no write below it, V' }"
          :value="of('power').floorVolts"
          :min="0.1"
          :show-button="false"
          @update:value="set('power', { floorVolts: $event ?? 11 })"
        />
      </NFormItem>
      <NFormItem label="Ceiling, V">
        <NInputNumber
          :input-props="{ 'aria-label': 'Ceiling, V' }"
          :value="of('power').ceilingVolts"
          :min="0.1"
          :show-button="false"
          @update:value="set('power', { ceilingVolts: $event ?? 15 })"
        />
      </NFormItem>
    </template>
    <TeachOperation v-else :teach="teach" />
  </div>
</template>
