<script setup lang="ts">
import { addressText, bytesText, groupedNumber, verdictOf } from '@bench-wake/core/kernel'
import type { ProblemDocument, ShelfImage } from '@bench-wake/server'
import { useEventListener } from '@vueuse/core'
import { NButton } from 'naive-ui'
import { onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import FindingList from '../parts/FindingList.vue'
import MemoryPicture from '../parts/MemoryPicture.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import { dayText, verdictWords, whenText } from '../parts/words'
import { got, problemOf } from '../stores/api'
import { useBench } from '../stores/bench'

const bench = useBench()
const route = useRoute()
const loading = useAsked()
const open = ref<string | null>(String(route.query['image'] ?? '') || null)
const over = ref(false)
const sending = ref<string | null>(null)
const refused = ref<ProblemDocument[]>([])
const arrived = ref<string[]>([])
const field = ref<HTMLInputElement>()

onMounted(() => loading.ask(() => Promise.all([bench.loadImages(), bench.loadFamilies()])))

async function take(files: Iterable<File>) {
  refused.value = []
  arrived.value = []
  for (const file of files) {
    sending.value = file.name
    try {
      const body = new FormData()
      body.append('file', file)
      const image = await got<ShelfImage>(fetch('/api/images', { method: 'POST', body }))
      arrived.value.push(image.id)
      open.value = image.id
    } catch (error) {
      refused.value.push(problemOf(error))
    }
  }
  sending.value = null
  await loading.ask(() => bench.loadImages())
}

useEventListener('dragover', (event) => {
  event.preventDefault()
  over.value = true
})
useEventListener('dragleave', (event) => {
  if (!event.relatedTarget) over.value = false
})
useEventListener('drop', (event) => {
  event.preventDefault()
  over.value = false
  if (event.dataTransfer?.files.length) void take(event.dataTransfer.files)
})
const picked = (event: Event) => {
  const input = event.target as HTMLInputElement
  if (input.files?.length) void take([...input.files])
  input.value = ''
}

const familyOf = (image: ShelfImage) => bench.families?.find(({ id }) => id === image.identity?.familyId)
const componentName = (image: ShelfImage) =>
  familyOf(image)?.components.find(({ id }) => id === image.identity?.componentId)?.name
</script>

<template>
  <div class="page" :class="{ over }">
    <div class="head">
      <div>
        <h1>Shelf</h1>
        <p class="soft">Images, by what is in them. Drop a file anywhere on this page.</p>
      </div>
      <NButton type="primary" size="large" :loading="sending !== null" @click="field?.click()"
        >Choose a file</NButton
      >
      <input ref="field" type="file" multiple hidden aria-label="Image file" @change="picked" />
    </div>
    <p v-if="sending" role="status" class="soft">Reading {{ sending }}…</p>
    <div v-for="problem in refused" :key="problem.detail" class="refused">
      <ProblemNote :problem="problem" />
      <p class="small soft">Nothing of this file was kept.</p>
    </div>
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />

    <table v-if="bench.images?.length" class="list">
      <thead>
        <tr>
          <th style="width: 32%">What it is</th>
          <th>Version</th>
          <th>For hardware</th>
          <th>Built</th>
          <th>Size</th>
          <th style="width: 22%">What to mind</th>
        </tr>
      </thead>
      <tbody v-for="image in bench.images" :key="image.id">
        <tr class="leads" :class="{ fresh: arrived.includes(image.id) }">
          <td>
            <button
              class="bare"
              type="button"
              :aria-expanded="open === image.id"
              @click="open = open === image.id ? null : image.id"
            >
              {{
                familyOf(image)
                  ? `${familyOf(image)!.name}, ${componentName(image)?.toLowerCase()}`
                  : 'Not known'
              }}
            </button>
            <small class="mono">{{ image.names.join(', ') }}</small>
          </td>
          <td>
            {{ image.identity?.version ?? 'not known' }}
            <small v-if="image.identity?.release">{{ image.identity.release }}</small>
          </td>
          <td>
            {{ image.identity?.deviceIdentifier ?? 'not known'
            }}<small>hardware {{ image.identity?.hardwareMajor ?? 'not known' }}</small>
          </td>
          <td>{{ image.identity?.buildTime ? dayText(image.identity.buildTime) : 'not known' }}</td>
          <td>{{ bytesText(image.bytes) }}</td>
          <td>
            <VerdictMark :verdict="verdictOf(image.findings)" quiet />
            {{ verdictWords[verdictOf(image.findings)] }}
            <small
              v-for="finding in image.findings.filter(({ level }) => level !== 'go')"
              :key="finding.rule"
              >{{ finding.says }}</small
            >
          </td>
        </tr>
        <tr v-if="open === image.id" class="more">
          <td colspan="6">
            <div class="two">
              <div>
                <MemoryPicture
                  :segments="image.segments"
                  :family="familyOf(image)"
                  :component="image.identity?.componentId"
                />
                <dl>
                  <div v-for="segment in image.segments" :key="segment.address">
                    <dt>Range</dt>
                    <dd class="mono">
                      {{ addressText(segment.address) }} to
                      {{ addressText(segment.address + segment.length - 1) }},
                      {{ groupedNumber(segment.length) }} bytes
                    </dd>
                  </div>
                  <div v-if="image.identity?.buildTime">
                    <dt>Built</dt>
                    <dd>{{ whenText(image.identity.buildTime) }}</dd>
                  </div>
                  <div>
                    <dt>On the shelf since</dt>
                    <dd>{{ whenText(image.addedAt) }}</dd>
                  </div>
                  <div>
                    <dt>SHA-256 of the file</dt>
                    <dd class="mono">{{ image.sha256 }}</dd>
                  </div>
                </dl>
                <p class="acts">
                  <a :href="`/api/images/${image.id}/bytes?format=ihex`" download>Take it as Intel HEX</a>
                  <a
                    v-if="image.segments.length === 1"
                    :href="`/api/images/${image.id}/bytes?format=bin`"
                    download
                    >Take it as plain binary</a
                  >
                </p>
              </div>
              <FindingList :findings="image.findings" />
            </div>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="bench.images" class="lead">
      The shelf is empty. Drop the first image here: what it is for is read from its bytes.
    </p>
    <p v-else-if="!loading.problem.value" class="soft" role="status">Looking over the shelf…</p>
    <p v-if="over" class="drop" aria-hidden="true">Drop it: it is read at once</p>
  </div>
</template>

<style scoped>
.page.over {
  outline: 3px dashed var(--brass);
  outline-offset: -12px;
}
.drop {
  position: fixed;
  inset: auto 0 30px;
  text-align: center;
  font-size: 24px;
  font-weight: 650;
  pointer-events: none;
}
.refused {
  margin-bottom: 14px;
}
.bare {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  padding: 0;
  text-align: left;
  cursor: pointer;
}
.bare::after {
  content: '';
  position: absolute;
  inset: 0;
}
tr.fresh td:first-child {
  box-shadow:
    -10px 0 0 var(--paper),
    -13px 0 0 var(--brass);
}
.more td {
  background: var(--sheet);
  padding: 14px;
}
.two {
  display: grid;
  grid-template-columns: 1.3fr 1fr;
  gap: 32px;
}
dl {
  margin: 8px 0;
}
dl div {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 12px;
  padding: 4px 0;
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.acts {
  display: flex;
  gap: 24px;
  line-height: 44px;
}
.lead {
  font-size: 18px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
  dl div {
    grid-template-columns: minmax(0, 1fr);
    gap: 0;
  }
}
</style>
