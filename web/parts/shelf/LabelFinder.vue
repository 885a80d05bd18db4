<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'
import type { LabelCandidate } from '@bench-wake/core/image'
import { addressText } from '@bench-wake/core/kernel'
import type { ShelfImage } from '@bench-wake/server'
import { NButton, NFormItem, NInput, NSelect } from 'naive-ui'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { useBench } from '../../stores/bench'
import { useDraft } from '../../stores/draft'
import type { ImageDesk } from '../../workers/image-desk'

/** Two images of known versions side by side: how images like these could say what they are. */
const { images, desk } = defineProps<{ images: readonly ShelfImage[]; desk: ImageDesk }>()
const bench = useBench()
const drafts = useDraft()
const router = useRouter()
const { busy, problem, ask } = useAsked()
const versions = ref(images.map(({ identity }) => identity?.version ?? ''))
const found = shallowRef<LabelCandidate[] | null>(null)
const familyId = ref<string | null>(images.find(({ identity }) => identity)?.identity?.familyId ?? null)
const componentId = ref<string | null>(null)
onMounted(() => ask(() => bench.loadFamilies()))
const family = computed(() => bench.families?.find(({ id }) => id === familyId.value))
const parts = computed(() =>
  (family.value?.components ?? []).map(({ id, name }) => ({ value: id, label: name })),
)
const part = computed(() => componentId.value ?? family.value?.components[0]?.id)
const look = () =>
  ask(async () => {
    const [a, b] = images
    found.value = await desk('label', [a!.id, versions.value[0]!], [b!.id, versions.value[1]!])
  })
/** Opens the profile with the label in it; nothing is saved before a person does. */
async function use(label: LabelCandidate) {
  const document = JSON.parse(JSON.stringify(family.value)) as FamilyDocument
  const own = document.components.find(({ id }) => id === part.value)!
  if (label.kind === 'text') own.versionText = [...(own.versionText ?? []), label.template]
  else
    own.identity = {
      address: addressText(label.address),
      magic: label.magic,
      fields: [
        { field: 'version', offset: `0x${label.offset.toString(16)}`, type: 'ascii', length: label.length },
      ],
    }
  drafts.document = document
  await router.push({ name: 'family', params: { id: document.id }, query: { draft: '1' } })
}
</script>

<template>
  <section class="mt-6 pt-3.5 line-t" aria-label="Find their label">
    <h2>How do images like these say their version?</h2>
    <p class="soft">
      Where you know both versions, the program looks for a text or a block around them, so that the profile
      can read it from every other image.
    </p>
    <form class="row flex mb-3 gap-3 flex-wrap items-end" @submit.prevent="look">
      <NFormItem
        v-for="(image, side) in images"
        :key="image.id"
        :label="`Version of ${image.name}`"
        :show-feedback="false"
      >
        <NInput
          v-model:value="versions[side]!"
          placeholder="2.48"
          :input-props="{ 'aria-label': `Version of ${image.name}` }"
        />
      </NFormItem>
      <NButton attr-type="submit" :disabled="versions.some((each) => !each.trim())" :loading="busy"
        >Look for it</NButton
      >
    </form>
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-if="found?.length === 0" class="soft" role="status">
      Neither version stands in its image as text. Enter the digests among the profile’s releases instead, or
      say on each image’s page what it is.
    </p>
    <template v-else-if="found">
      <div class="row flex mb-3 gap-3 flex-wrap items-end">
        <NFormItem label="For the profile of" :show-feedback="false">
          <NSelect
            v-model:value="familyId"
            :options="(bench.families ?? []).map(({ id, name }) => ({ value: id, label: name }))"
            filterable
            placeholder="Which equipment they are for"
            :input-props="{ 'aria-label': 'For the profile of' }"
          />
        </NFormItem>
        <NFormItem v-if="parts.length > 1" label="Part" :show-feedback="false">
          <NSelect
            :value="part ?? null"
            :options="parts"
            :input-props="{ 'aria-label': 'Part' }"
            @update:value="componentId = $event"
          />
        </NFormItem>
      </div>
      <ul class="p-0 list-none">
        <li
          v-for="(label, index) in found"
          :key="index"
          class="flex py-2 gap-y-2 gap-x-5 flex-wrap items-center justify-between line-b max-w-215"
          :data-label="label.kind"
        >
          <span v-if="label.kind === 'text'">
            Text <span class="mono">“{{ label.template }}”</span>
            <small class="block soft">
              {{
                label.addresses[0] === label.addresses[1]
                  ? `at ${addressText(label.addresses[0])} in both`
                  : `at ${addressText(label.addresses[0])} and at ${addressText(label.addresses[1])}`
              }}
            </small>
          </span>
          <span v-else>
            Block <span class="mono">{{ label.magic }}</span> at {{ addressText(label.address) }}
            <small class="block soft"
              >its version {{ label.offset }} bytes after the mark’s first, in {{ label.length }} bytes</small
            >
          </span>
          <NButton :disabled="!family" @click="use(label)">Use in the profile</NButton>
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.row > :deep(.n-form-item) {
  width: 280px;
}
</style>
