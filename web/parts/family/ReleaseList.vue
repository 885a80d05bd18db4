<script setup lang="ts">
import type { KnownRelease } from '@bench-wake/core/family'
import { NButton, NUpload, type UploadFileInfo } from 'naive-ui'
import { computed, ref } from 'vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { api, got } from '../../stores/api'

/** Brings a supplier's list of releases into a profile: what it holds is shown before anything is added. */
const { have, familyId } = defineProps<{ have: readonly KnownRelease[]; familyId: string | null }>()
const emit = defineEmits<{ add: [releases: KnownRelease[]] }>()
const { busy, problem, ask } = useAsked()
const read = ref<{ name: string; releases: KnownRelease[]; faults: { row: number; says: string }[] } | null>(
  null,
)
const known = computed(() => new Set(have.map(({ sha256 }) => sha256)))
const fresh = computed(() => (read.value?.releases ?? []).filter(({ sha256 }) => !known.value.has(sha256)))
const take = ({ file }: { file: UploadFileInfo }) => {
  const chosen = file.file
  if (chosen)
    void ask(async () => {
      const text = await chosen.text()
      const found = await got<{ releases: KnownRelease[]; faults: { row: number; says: string }[] }>(
        api.families.releases.$post({ json: { text } }),
      )
      read.value = { name: chosen.name, ...found }
    })
  return false
}
function add() {
  emit('add', fresh.value)
  read.value = null
}
</script>

<template>
  <div class="mb-4">
    <p class="soft">
      Images without a label of their own are told by their SHA-256. A supplier’s list comes in as a table
      with the columns version and sha256 (component, hardware, date and notes where it has them), or as JSON.
    </p>
    <div class="acts gap-3">
      <NUpload
        accept=".csv,.json,.txt,text/csv,application/json"
        :show-file-list="false"
        @before-upload="take"
      >
        <NButton :loading="busy">Import CSV or JSON</NButton>
      </NUpload>
      <a v-if="familyId && have.length" :href="`/api/families/${familyId}/releases`" download
        >Export as CSV</a
      >
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <section v-if="read" aria-label="What the list holds">
      <p role="status">
        {{ read.name }}: {{ fresh.length }} new {{ fresh.length === 1 ? 'release' : 'releases'
        }}<template v-if="read.releases.length > fresh.length"
          >, {{ read.releases.length - fresh.length }} that the profile has already</template
        ><template v-if="read.faults.length"
          >, {{ read.faults.length }} {{ read.faults.length === 1 ? 'row' : 'rows' }} that cannot be
          read</template
        >.
      </p>
      <ul v-if="read.faults.length">
        <li v-for="fault in read.faults.slice(0, 8)" :key="fault.row">
          Row {{ fault.row }}: {{ fault.says }}
        </li>
      </ul>
      <div class="acts gap-3">
        <NButton type="primary" :disabled="fresh.length === 0" @click="add"
          >Add {{ fresh.length }} {{ fresh.length === 1 ? 'release' : 'releases' }}</NButton
        >
        <NButton @click="read = null">Cancel</NButton>
      </div>
    </section>
  </div>
</template>
