<script setup lang="ts">
import { inSentence } from '@bench-wake/core/kernel'
import type { ListedCase } from '@bench-wake/server'
import { NButton, NResult, NSkeleton } from 'naive-ui'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import ProblemNote from '../parts/ProblemNote.vue'
import CaseForm from '../parts/rounds/CaseForm.vue'
import RoundStrip from '../parts/rounds/RoundStrip.vue'
import { nextText, outcomeWords } from '../parts/rounds/words'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import { api, got } from '../stores/api'
import { dayText, written } from '../parts/written'

/** Calibration by rounds: image, log, answer, next image, with somebody far away. */
const cases = shallowRef<ListedCase[] | null>(null)
const loading = useAsked()
const route = useRoute()
const router = useRouter()
/** A unit asks for a case of its own. */
const forUnit = computed(() => (typeof route.query['unit'] === 'string' ? route.query['unit'] : null))
const beginning = ref(forUnit.value !== null)
onMounted(() => loading.ask(async () => (cases.value = await got<ListedCase[]>(api.cases.$get()))))
const opened = (id: string) => router.push({ name: 'case', params: { id } })
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <h1>Rounds</h1>
        <p class="soft">
          A calibrator sends an image, you write it, log it and send the log back, until it is good.
        </p>
      </div>
      <NButton v-if="!beginning" type="primary" size="large" @click="beginning = true">Begin a case</NButton>
    </div>
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <CaseForm v-if="beginning" :unit-id="forUnit" @cancel="beginning = false" @saved="opened" />
    <NSkeleton v-if="!cases && !loading.problem.value" text :repeat="6" role="status" aria-label="Loading…" />
    <NResult
      v-else-if="cases?.length === 0 && !beginning"
      status="info"
      title="No case yet"
      description="Begin one when a calibrator has agreed to tune a unit with you."
    />
    <template v-if="cases && !beginning">
      <article v-for="each in cases" :key="each.id" class="pt-4 pb-2.5 line-t" :data-case="each.id">
        <div class="flex mb-2 gap-4 flex-wrap justify-between items-start">
          <div>
            <h2>
              <RouterLink :to="{ name: 'case', params: { id: each.id } }">{{ each.title }}</RouterLink>
            </h2>
            <p class="small soft">
              {{ each.unit.name }}. With {{ inSentence(each.calibrator) }} since {{ dayText(each.openedAt) }}.
            </p>
          </div>
          <p v-if="each.closed">
            Closed {{ dayText(each.closed.at) }}: {{ outcomeWords[each.closed.outcome] }}.
          </p>
          <p v-else class="text-lead">
            <b>{{ nextText(each.next, (kind) => each.kinds[kind] ?? kind) }}</b>
          </p>
        </div>
        <p v-for="finding in each.convergence" :key="finding.rule" :data-rule="finding.rule">
          <VerdictMark :verdict="finding.level" quiet /> {{ written(finding.says) }}
        </p>
        <RoundStrip
          v-if="each.rounds.length > 0"
          :rounds="each.rounds"
          :within="each.within"
          :unit="each.errorUnit"
          @update:chosen="opened(each.id)"
        />
      </article>
    </template>
  </div>
</template>
