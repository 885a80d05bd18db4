<script setup lang="ts">
import { drivesLink, type FamilyDocument } from '@bench-wake/core/family'
import type { KnownUnit } from '@bench-wake/server'
import { NButton } from 'naive-ui'
import { computed, ref } from 'vue'
import { api, got } from '../../stores/api'
import PortChoice from '../PortChoice.vue'
import ProblemNote from '../ProblemNote.vue'
import PageEntry from '../unit/PageEntry.vue'
import { useAsked } from '../useAsked'
import { whenText } from '../words'

const port = defineModel<string | null>('port', { required: true })
const { unit, family } = defineProps<{
  unit: KnownUnit
  reason: string
  family: FamilyDocument | undefined
}>()
const emit = defineEmits<{ read: [] }>()
/** Whether this program reads the unit over a link by itself. */
const driven = computed(() => family?.links.some(drivesLink) ?? true)
const way = ref<'type' | 'paste' | null>(null)
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
      :data-primary="!driven || undefined"
      :type="driven ? 'default' : 'primary'"
      :size="driven ? 'medium' : 'large'"
      @click="way = 'paste'"
      >Paste its page</NButton
    >
    <NButton @click="way = 'type'">Type its page</NButton>
  </div>
  <PageEntry
    v-if="way && family"
    :key="way"
    :unit-id="unit.id"
    :family="family"
    :way="way"
    @kept="emit('read')"
    @leave="way = null"
  />
  <p class="soft">
    <template v-if="unit.facts.readAt"
      >Last read {{ whenText(unit.facts.readAt) }}. A page that old is read again: units are swapped between
      visits.</template
    >
    <template v-else>This unit was never read. Nothing is assumed about it.</template>
  </p>
  <ProblemNote v-if="problem" :problem="problem" class="trouble" />
</template>

<style scoped>
.trouble {
  margin-top: 18px;
}
</style>
