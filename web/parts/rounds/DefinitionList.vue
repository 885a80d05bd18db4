<script setup lang="ts">
import type { ListedDefinition } from '@bench-wake/server'
import { NButton, NInput } from 'naive-ui'
import { reactive } from 'vue'
import { api, got } from '../../stores/api'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'

/** What a list of tables (CSV) does not carry and a definition must: its name, its signature, where it may be written. */
const { name, list } = defineProps<{ name: string; list: string }>()
const emit = defineEmits<{ saved: [id: string]; cancel: [] }>()
const { busy, problem, ask } = useAsked()
const form = reactive({
  name: name.replace(/\.\w+$/, ''),
  signatureAt: '',
  signature: '',
  calibrationAt: '',
  calibrationBytes: '',
  checksumAt: '',
  checksumBytes: '0x4',
})
const save = () =>
  ask(async () => {
    const region = (use: 'calibration' | 'checksum', address: string, length: string) => ({
      use,
      address,
      length,
    })
    const { id } = await got<ListedDefinition>(
      api.definitions['from-list'].$post({
        json: {
          list,
          name: form.name,
          signature: { address: form.signatureAt.trim(), ascii: form.signature },
          regions: [
            region('calibration', form.calibrationAt.trim(), form.calibrationBytes.trim()),
            ...(form.checksumAt.trim()
              ? [region('checksum', form.checksumAt.trim(), form.checksumBytes.trim())]
              : []),
          ],
        },
      }),
    )
    emit('saved', id)
  })
const fields = [
  ['name', 'Name', ''],
  ['signatureAt', 'Signature at', '0x00010114'],
  ['signature', 'Text that stands there', 'L-204'],
  ['calibrationAt', 'Calibration begins at', '0x00014000'],
  ['calibrationBytes', 'Its bytes', '0x1000'],
  ['checksumAt', 'Checksum at, where there is one', '0x00017FFC'],
  ['checksumBytes', 'Bytes of the checksum', '0x4'],
] as const
</script>

<template>
  <form class="list grid pl-3.5 gap-3 bar-hair" data-part="definition-list" @submit.prevent="save">
    <p>
      <b>{{ name }}</b> is a list of tables. It does not say which image it belongs to, nor what may be
      written: ask the calibrator, or take it from the sheet that came with it.
    </p>
    <div class="grid gap-3 fill-220">
      <label v-for="[key, says, example] in fields" :key="key" class="field"
        >{{ says }}
        <NInput
          v-model:value="form[key]"
          :placeholder="example"
          class="mono"
          :input-props="{ 'aria-label': says }"
        />
      </label>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <div class="acts gap-3">
      <NButton
        type="primary"
        attr-type="submit"
        :loading="busy"
        :disabled="
          !form.name || !form.signatureAt || !form.signature || !form.calibrationAt || !form.calibrationBytes
        "
        >Save the definition</NButton
      >
      <NButton quaternary @click="emit('cancel')">Cancel</NButton>
    </div>
  </form>
</template>
