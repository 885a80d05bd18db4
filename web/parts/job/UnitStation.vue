<script setup lang="ts">
import type { KnownUnit } from '@bench-wake/server'
import { NButton } from 'naive-ui'
import { useRouter } from 'vue-router'
import { api, got } from '../../stores/api'
import PortChoice from '../PortChoice.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { whenText } from '../words'

const port = defineModel<string | null>('port', { required: true })
const { unit } = defineProps<{ unit: KnownUnit; reason: string; driven: boolean }>()
const emit = defineEmits<{ read: [] }>()
const router = useRouter()
const { busy, problem, ask } = useAsked()

const read = () =>
  ask(async () => {
    await got(api.units[':id'].snapshots.$post({ param: { id: unit.id }, json: { port: port.value! } }))
    emit('read')
  })
</script>

<template>
  <p class="where">Unit, before anything else is plugged in</p>
  <h2 class="say">Read what the unit says of itself.</h2>
  <p class="lead">{{ reason }}</p>
  <div class="acts">
    <template v-if="driven">
      <PortChoice v-model="port" :unit-id="unit.id" />
      <NButton data-primary type="primary" size="large" :disabled="!port" :loading="busy" @click="read">
        Read the unit
      </NButton>
    </template>
    <NButton
      v-else
      data-primary
      type="primary"
      size="large"
      @click="router.push({ name: 'unit', params: { id: unit.id } })"
    >
      Type or paste its page
    </NButton>
  </div>
  <p class="soft">
    <template v-if="unit.facts.readAt"
      >Last read {{ whenText(unit.facts.readAt) }}. A page that old is read again: units are swapped between
      visits.</template
    >
    <template v-else>This unit was never read. Nothing is assumed about it.</template>
    <template v-if="driven">
      No link yet?
      <RouterLink :to="{ name: 'unit', params: { id: unit.id } }">Type or paste its page.</RouterLink>
    </template>
  </p>
  <ProblemNote v-if="problem" :problem="problem" class="trouble" />
</template>

<style scoped>
.trouble {
  margin-top: 18px;
}
</style>
