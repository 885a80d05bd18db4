<script setup lang="ts">
import { judgeWiring, leversText, linkOfJob, pairsOf, pinText } from '@bench-wake/core/ready'
import { NButton, NTable } from 'naive-ui'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import AddressSwitch from '../parts/job/AddressSwitch.vue'
import { useJobBench } from '../parts/job/useJobBench'
import WiringPicture from '../parts/job/WiringPicture.vue'
import FindingList from '../parts/FindingList.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { written } from '../parts/written'

/** The wiring card: one sheet for the bench, with the drawing, the joins in words, and what has to be minded. */
const id = String(useRoute().params['id'])
const { view, adapters, family, problem } = useJobBench(id)
const say = computed(() => view.value?.bench.wiring)
const link = computed(() => (family.value ? linkOfJob(family.value, say.value) : null))
const adapter = computed(() => adapters.value.find((each) => each.id === say.value?.adapterId))
const pairs = computed(() =>
  adapter.value && link.value?.wiring && say.value
    ? pairsOf(adapter.value, link.value.wiring, say.value)
    : [],
)
const findings = computed(() =>
  family.value && view.value
    ? judgeWiring(family.value, adapters.value, say.value, view.value.workshopRules).findings.filter(
        ({ level }) => level !== 'go',
      )
    : [],
)
const print = () => window.print()
</script>

<template>
  <div class="page">
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-else-if="!view || !family || !link" class="soft" role="status">Drawing the card…</p>
    <template v-else>
      <div class="head">
        <div>
          <h1>Wiring card: {{ view.unit.name }}</h1>
          <p class="soft">
            {{ family.name }}, serial {{ view.unit.serial }}, {{ view.unit.place }}. {{ link.name }}.
          </p>
        </div>
        <div class="no-print acts gap-4">
          <NButton size="large" type="primary" @click="print">Print the card</NButton>
          <RouterLink :to="{ name: 'job', params: { id } }">Back to the job</RouterLink>
        </div>
      </div>
      <p v-if="!adapter || !link.wiring || !say" class="soft">
        Nothing is drawn yet: choose the adapter in the job.
      </p>
      <div v-else class="grid pt-4 gap-10 grid-cols-[auto_minmax(260px,1fr)] line-t slim:grid-cols-1">
        <WiringPicture
          :adapter="adapter"
          :wiring="link.wiring"
          :joins="say.joins"
          :faults="new Map()"
          fixed
        />
        <div>
          <NTable v-columns :bordered="false" class="list">
            <thead>
              <tr>
                <th>{{ adapter.name }}{{ adapter.serial ? `, no. ${adapter.serial}` : '' }}</th>
                <th>{{ link.wiring.connector }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="pair in pairs" :key="pair.adapter.id + pair.target.id">
                <td>{{ pinText(pair.adapter) }}</td>
                <td>{{ pinText(pair.target) }}</td>
              </tr>
            </tbody>
          </NTable>
          <ul class="pl-4.5">
            <li v-if="say.level">Level switch on {{ say.level }} V.</li>
            <li>
              {{
                say.feeding
                  ? 'The adapter feeds the unit; every other supply is off.'
                  : 'The adapter’s supply pin stays open; the unit feeds itself.'
              }}
            </li>
            <li v-if="link.wiring.terminated">60 ohm between the bus wires, unpowered.</li>
            <li v-if="link.wiring.faces">{{ link.wiring.faces }}</li>
            <li v-if="link.wiring.says">{{ written(link.wiring.says) }}</li>
            <li v-for="line in link.wiring.order ?? []" :key="line">{{ line }}</li>
          </ul>
          <p v-if="family.power.caution" class="caution my-2.5">
            <b>Caution.</b> {{ written(family.power.caution) }}
          </p>
          <template v-if="family.isolation?.switch">
            <p class="small">
              {{ written(family.isolation.switch.says) }} {{ leversText(family.isolation.switch.stands) }}.
            </p>
            <AddressSwitch
              :name="family.isolation.switch.name"
              :stands="family.isolation.switch.stands"
              :levers="family.isolation.switch.stands"
              fixed
            />
          </template>
        </div>
      </div>
      <FindingList v-if="findings.length" :findings="findings" />
    </template>
  </div>
</template>
