<script setup lang="ts">
import { checksumNames, shortName, transfers, type TeachDraft } from '@bench-wake/core/family'
import { usualSpeeds } from '@bench-wake/core/link'
import { NFormItem, NInput, NInputNumber, NRadio, NRadioGroup } from 'naive-ui'
import { computed } from 'vue'
import PickOne from '../PickOne.vue'
import type { Teach } from './useTeach'

/** The fields of one piece, as a manual has them. An empty piece is not known. */
const { teach } = defineProps<{ teach: Teach }>()

const empty = {
  memory: { address: '', length: '', sectorBytes: 4096 },
  entry: { how: 'hand', does: '', settleMs: 1000 },
  attach: { sends: '', by: 'prompt', text: '' },
  erase: { sends: '', progress: '', withinMs: 30_000 },
  write: { sends: '', announces: '', by: 'xmodem-1k', then: '', pieceBytes: null },
  check: { sends: '', answers: '{sum:hex8}', checksum: 'crc32' },
  read: { sends: '', line: '{at:hex8}: {row:bytes}' },
  start: { sends: '' },
  power: { nominalVolts: 12, floorVolts: 11.5, ceilingVolts: 15 },
} satisfies Partial<TeachDraft>
type Optional = keyof typeof empty

const draft = computed(() => teach.draft.value)
const piece = computed(() => teach.piece.value)
/** A piece as it stands, or empty. */
const of = <K extends Optional>(key: K): NonNullable<TeachDraft[K]> =>
  (draft.value[key] ?? empty[key]) as NonNullable<TeachDraft[K]>
const set = <K extends Optional>(key: K, part: Partial<NonNullable<TeachDraft[K]>>) =>
  teach.change({ [key]: { ...of(key), ...part } } as Partial<TeachDraft>)
const about = (part: Partial<TeachDraft['about']>) =>
  teach.change({ about: { ...draft.value.about, ...part } })
/** A short name follows the name until it was written by hand. */
const rename = (name: string) =>
  about({
    name,
    ...(draft.value.about.id === shortName(draft.value.about.name) ? { id: shortName(name) } : {}),
  })

const byNames: Record<(typeof transfers)[number], string> = {
  xmodem: 'XMODEM, blocks of 128',
  'xmodem-1k': 'XMODEM-1K',
  ymodem: 'YMODEM',
  plain: 'the bytes as they are',
  'ihex-lines': 'Intel HEX, a line at a time',
  'srec-lines': 'S-records, a line at a time',
}
const ways = transfers.map((value) => ({ value, label: byNames[value] }))
const sums = checksumNames.map((value) => ({ value: value as string, label: value }))
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
const slots = '{address:hex8} is the address in eight hexadecimal digits, {length} the bytes in decimal.'
</script>

<template>
  <div class="fields">
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
          label="Line end of what is sent"
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
      <NFormItem label="What it is, in a sentence" class="wide">
        <NInput
          :input-props="{ 'aria-label': 'What it is, in a sentence' }"
          :value="draft.about.summary"
          @update:value="about({ summary: $event })"
        />
      </NFormItem>
      <NFormItem label="What every unit and image of it says it is" class="wide">
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
      <NFormItem label="How" class="wide">
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
      <NFormItem v-else label="What the hands do" class="wide">
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

    <template v-else-if="piece === 'erase'">
      <NFormItem label="Command" class="wide" :feedback="slots">
        <NInput
          :input-props="{ 'aria-label': 'Command' }"
          :value="of('erase').sends"
          placeholder="erase {address:hex8} {length:hex8}"
          class="mono"
          @update:value="set('erase', { sends: $event })"
        />
      </NFormItem>
      <NFormItem label="Line that tells progress (empty: none)">
        <NInput
          :input-props="{ 'aria-label': 'Line that tells progress (empty: none)' }"
          :value="of('erase').progress"
          placeholder="sector {done}/{total}"
          class="mono"
          @update:value="set('erase', { progress: $event })"
        />
      </NFormItem>
      <NFormItem label="All of it within, s">
        <NInputNumber
          :input-props="{ 'aria-label': 'All of it within, s' }"
          :value="of('erase').withinMs / 1000"
          :min="1"
          :max="3600"
          :show-button="false"
          @update:value="set('erase', { withinMs: 1000 * ($event ?? 30) })"
        />
      </NFormItem>
    </template>

    <template v-else-if="piece === 'write'">
      <NFormItem label="How the image goes">
        <PickOne
          label="How the image goes"
          :value="of('write').by"
          :options="ways"
          @update:value="set('write', { by: $event })"
        />
      </NFormItem>
      <NFormItem label="Bytes at once (empty: all of it)">
        <NInputNumber
          :input-props="{ 'aria-label': 'Bytes at once (empty: all of it)' }"
          :value="of('write').pieceBytes"
          clearable
          :min="1"
          :show-button="false"
          @update:value="set('write', { pieceBytes: $event })"
        />
      </NFormItem>
      <NFormItem label="Command before it (empty: none)" class="wide" :feedback="slots">
        <NInput
          :input-props="{ 'aria-label': 'Command before it (empty: none)' }"
          :value="of('write').sends"
          placeholder="load {address:hex8}"
          class="mono"
          @update:value="set('write', { sends: $event })"
        />
      </NFormItem>
      <NFormItem label="Line that says: send now (empty: none)">
        <NInput
          :input-props="{ 'aria-label': 'Line that says: send now (empty: none)' }"
          :value="of('write').announces"
          placeholder="send xmodem"
          class="mono"
          @update:value="set('write', { announces: $event })"
        />
      </NFormItem>
      <NFormItem label="Command that burns it afterwards (empty: none)">
        <NInput
          :input-props="{ 'aria-label': 'Command that burns it afterwards (empty: none)' }"
          :value="of('write').then"
          class="mono"
          @update:value="set('write', { then: $event })"
        />
      </NFormItem>
    </template>

    <template v-else-if="piece === 'check'">
      <NFormItem label="Command" class="wide" :feedback="slots">
        <NInput
          :input-props="{ 'aria-label': 'Command' }"
          :value="of('check').sends"
          placeholder="crc {address:hex8} {length:hex8}"
          class="mono"
          @update:value="set('check', { sends: $event })"
        />
      </NFormItem>
      <NFormItem label="Line it answers, {sum:hex8} where the digits stand">
        <NInput
          :input-props="{ 'aria-label': 'Line it answers, {sum:hex8} where the digits stand' }"
          :value="of('check').answers"
          class="mono"
          @update:value="set('check', { answers: $event })"
        />
      </NFormItem>
      <NFormItem label="Which checksum">
        <PickOne
          label="Checksum"
          :value="of('check').checksum"
          filterable
          :options="sums"
          @update:value="set('check', { checksum: $event })"
        />
      </NFormItem>
    </template>

    <template v-else-if="piece === 'read'">
      <NFormItem label="Command" class="wide" :feedback="slots">
        <NInput
          :input-props="{ 'aria-label': 'Command' }"
          :value="of('read').sends"
          placeholder="dump {address:hex8} {length:hex8}"
          class="mono"
          @update:value="set('read', { sends: $event })"
        />
      </NFormItem>
      <NFormItem label="A line as it prints it: {at:hex8} is the address, {row:bytes} the bytes" class="wide">
        <NInput
          :input-props="{
            'aria-label': 'A line as it prints it: {at:hex8} is the address, {row:bytes} the bytes',
          }"
          :value="of('read').line"
          class="mono"
          @update:value="set('read', { line: $event })"
        />
      </NFormItem>
    </template>

    <NFormItem v-else-if="piece === 'start'" label="Command">
      <NInput
        :input-props="{ 'aria-label': 'Command' }"
        :value="of('start').sends"
        placeholder="go"
        class="mono"
        @update:value="set('start', { sends: $event })"
      />
    </NFormItem>

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
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
  gap: 0 18px;
}
.wide {
  grid-column: 1 / -1;
}
</style>
