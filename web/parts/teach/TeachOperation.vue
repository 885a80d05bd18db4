<script setup lang="ts">
import { checksumNames, transfers } from '@bench-wake/core/family'
import { NFormItem, NInput, NInputNumber } from 'naive-ui'
import PickOne from '../PickOne.vue'
import { usePiece } from './usePiece'
import type { Teach } from './useTeach'

/** The fields of what the bootloader does: erase, write, check, read, start. */
const { teach } = defineProps<{ teach: Teach }>()
const { piece, of, set } = usePiece(teach)

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
const slots = '{address:hex8} is the address in eight hexadecimal digits, {length} the bytes in decimal.'
</script>

<template>
  <template v-if="piece === 'erase'">
    <NFormItem label="Command" class="col-span-full" :feedback="slots">
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
    <NFormItem label="Line that says: done (empty: as its other answers)">
      <NInput
        :input-props="{ 'aria-label': 'Line that says: done (empty: as its other answers)' }"
        :value="of('erase').done ?? ''"
        placeholder="ok"
        class="mono"
        @update:value="set('erase', { done: $event })"
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
    <NFormItem label="Command before it (empty: none)" class="col-span-full" :feedback="slots">
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
    <NFormItem label="Line that says: taken (empty: as its other answers)">
      <NInput
        :input-props="{ 'aria-label': 'Line that says: taken (empty: as its other answers)' }"
        :value="of('write').done ?? ''"
        placeholder="ok"
        class="mono"
        @update:value="set('write', { done: $event })"
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
    <NFormItem label="Command" class="col-span-full" :feedback="slots">
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
    <NFormItem label="Command" class="col-span-full" :feedback="slots">
      <NInput
        :input-props="{ 'aria-label': 'Command' }"
        :value="of('read').sends"
        placeholder="dump {address:hex8} {length:hex8}"
        class="mono"
        @update:value="set('read', { sends: $event })"
      />
    </NFormItem>
    <NFormItem
      label="A line as it prints it: {at:hex8} is the address, {row:bytes} the bytes"
      class="col-span-full"
    >
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
</template>
