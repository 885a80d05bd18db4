<script setup lang="ts">
import {
  checkFamily,
  copyFamily,
  compareProfiles,
  sharedClaims,
  type FamilyDocument,
  type KnownRelease,
  type ProfileFault,
} from '@bench-wake/core/family'
import type { FamilyHistory } from '@bench-wake/server'
import { useEventListener } from '@vueuse/core'
import { NButton } from 'naive-ui'
import { computed, nextTick, onMounted, provide, ref, shallowRef, toRaw } from 'vue'
import { onBeforeRouteLeave, useRoute, useRouter } from 'vue-router'
import {
  formOver,
  profileForm,
  profileParts,
  shown,
  profileSchema,
  type FieldSchema,
} from '../parts/family/profile-form'
import { saveJson } from '../parts/family/save-json'
import { showField } from '../parts/family/show-field'
import { useRevisionCompare } from '../parts/family/useRevisionCompare'
import { useTrials } from '../parts/family/useTrials'
import ProfileField from '../parts/family/ProfileField.vue'
import ReleaseList from '../parts/family/ReleaseList.vue'
import PartNav from '../parts/PartNav.vue'
import FilePick from '../parts/FilePick.vue'
import PickOne from '../parts/PickOne.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { useDraft } from '../stores/draft'
import { dayText } from '../parts/written'

const route = useRoute()
const router = useRouter()
const bench = useBench()
const drafts = useDraft()
const loading = useAsked()
const keeping = useAsked()
const isNew = route.params['id'] === 'new'
const history = shallowRef<FamilyHistory | null>(null)
const document = shallowRef<unknown>(null)
/** What is kept now, or what the draft began as. */
const kept = shallowRef<unknown>(null)
const before = shallowRef<unknown[]>([])
const part = ref('general')
const { against, other, compared } = useRevisionCompare(history, document, loading)

/** What a copy was begun without. */
const leftOut = ref<string[]>([])
onMounted(() =>
  loading.ask(async () => {
    await bench.loadFamilies()
    if (!isNew) {
      history.value = await got<FamilyHistory>(
        api.families[':id'].$get({ param: { id: String(route.params['id']) } }),
      )
      kept.value = document.value = toRaw(history.value).document
    }
    if (drafts.document && (isNew || route.query['draft'])) {
      document.value = drafts.document
      if (isNew) kept.value = {}
      leftOut.value = drafts.leftOut
      drafts.document = null
      drafts.leftOut = []
    }
  }),
)

/** Read once for all that rests on it: it takes some milliseconds at every key. */
const checked = computed(() => (document.value ? checkFamily(document.value) : null))
const faults = computed<ProfileFault[]>(() => checked.value?.faults ?? [])
const trials = useTrials(
  isNew ? null : String(route.params['id']),
  computed(() => checked.value?.family),
)
const others = computed(() => (bench.families ?? []).flatMap((each) => checkFamily(each).family ?? []))
/** Others whose images this one claims too; once both are read. */
const claims = computed(() => {
  const read = faults.value.length === 0 ? checked.value?.family : null
  return read ? sharedClaims(read, others.value) : []
})
provide(
  profileForm,
  formOver(
    document,
    faults,
    () => {
      before.value = [...before.value.slice(-199), document.value]
    },
    trials,
  ),
)
const releases = computed(() => (document.value as Partial<FamilyDocument> | null)?.releases ?? [])
function addReleases(more: KnownRelease[]) {
  before.value = [...before.value.slice(-199), document.value]
  document.value = { ...(document.value as object), releases: [...releases.value, ...more] }
}
function undo() {
  const last = before.value.at(-1)
  if (last === undefined) return
  before.value = before.value.slice(0, -1)
  document.value = last
}
useEventListener('keydown', (event) => {
  const typing = (event.target as HTMLElement | null)?.closest('input, textarea')
  if (event.key.toLowerCase() !== 'z' || !(event.ctrlKey || event.metaKey) || typing) return
  event.preventDefault()
  undo()
})

const schema = profileSchema.properties as Record<string, FieldSchema>
const open = computed(() => profileParts.find(({ id }) => id === part.value)!)
const wrong = (keys: string[]) =>
  faults.value.filter(({ at }) => keys.some((key) => at === key || at.startsWith(`${key}.`))).length
/** A part of its own has its name above it already. */
const valueIsThere = (key: string) => (document.value as Record<string, unknown> | null)?.[key] !== undefined
const listed = computed(() =>
  profileParts.map(({ id, says, keys }) => {
    const count = wrong(keys)
    return { id, says, ...(count ? { wrong: `${count} to fix` } : {}) }
  }),
)
const required = (key: string) => profileSchema.required?.includes(key) ?? false

const changes = computed(() =>
  kept.value && document.value ? compareProfiles(kept.value, document.value) : [],
)
const dirty = computed(() => isNew || changes.value.length > 0)
const nextRevision = computed(() => (history.value?.revisions[0]?.revision ?? 0) + 1)
const name = computed(() => (document.value as { name?: string } | null)?.name ?? 'New family')

async function showFault(at: string) {
  const first = at.split('.')[0]!
  part.value = profileParts.find(({ keys }) => keys.includes(first))?.id ?? 'general'
  await nextTick()
  showField(at)
}

const keep = () =>
  keeping.ask(async () => {
    const revised = { ...(document.value as object), revision: isNew ? 1 : nextRevision.value }
    const made = await got<{ id: string }>(api.families.$post({ json: revised as Record<string, unknown> }))
    await bench.loadFamilies(true)
    kept.value = document.value = revised
    before.value = []
    if (isNew) await router.replace({ name: 'family', params: { id: made.id } })
    else history.value = await got<FamilyHistory>(api.families[':id'].$get({ param: { id: made.id } }))
  }, 'The profile is kept.')
async function duplicate() {
  const copied = copyFamily(toRaw(document.value) as FamilyDocument)
  drafts.document = copied.document
  drafts.leftOut = copied.leftOut
  kept.value = document.value
  await router.push({ name: 'family', params: { id: 'new' } })
}
const save = () => saveJson(document.value, `${(document.value as { id?: string }).id ?? 'family'}.json`)
const unread = ref('')
async function take(file: File) {
  unread.value = ''
  try {
    const taken: unknown = JSON.parse(await file.text())
    before.value = [...before.value, document.value]
    document.value = taken
  } catch (error) {
    unread.value = `${file.name} is no JSON: ${(error as Error).message} Nothing was changed.`
  }
}
onBeforeRouteLeave((to) => {
  if (to.name === 'family' || !dirty.value || changes.value.length === 0) return true
  return window.confirm('The changes to this profile are not kept yet. Leave them?')
})
</script>

<template>
  <div class="page">
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <template v-if="document">
      <div class="head">
        <div>
          <p class="small soft">
            <RouterLink :to="{ name: 'families' }">Family profiles</RouterLink>
            <template v-if="history">
              · revision {{ history.revisions[0]?.revision }}, {{ history.units }}
              {{ history.units === 1 ? 'unit rests' : 'units rest' }} on it</template
            >
          </p>
          <h1>{{ name }}</h1>
          <p v-if="leftOut.length" class="soft" role="status">
            Left out of the copy: {{ leftOut.join(', ') }}. They are about other units; write your own.
          </p>
        </div>
        <div class="acts gap-2">
          <NButton :disabled="before.length === 0" @click="undo">Undo</NButton>
          <NButton @click="save">Export JSON</NButton>
          <FilePick label="Profile file" accept="application/json,.json" @picked="take">
            <NButton>Import JSON</NButton>
          </FilePick>
          <NButton v-if="!isNew" @click="duplicate">Start a new family from it</NButton>
          <NButton
            type="primary"
            size="large"
            :disabled="faults.length > 0 || !dirty"
            :loading="keeping.busy.value"
            @click="keep"
            >Save revision {{ isNew ? 1 : nextRevision }}</NButton
          >
        </div>
      </div>
      <p v-if="unread" role="alert" class="mb-3 text-stop font-600">{{ unread }}</p>
      <ProblemNote v-if="keeping.problem.value" :problem="keeping.problem.value" />
      <div class="grid pt-4 gap-8 grid-cols-[170px_minmax(0,1fr)_250px] line-t slim:gap-4.5 slim:grid-cols-1">
        <PartNav v-model="part" :parts="listed" label="Parts of the profile" />
        <section class="max-w-190" :aria-label="open.says">
          <h2>{{ open.says }}</h2>
          <ReleaseList
            v-if="part === 'releases'"
            :have="releases"
            :family-id="isNew ? null : String(route.params['id'])"
            @add="addReleases"
          />
          <ProfileField
            v-for="key in open.keys"
            :key="key"
            :schema="schema[key]!"
            :path="[key]"
            :required="required(key)"
            :bare="open.keys.length === 1 && valueIsThere(key)"
          />
        </section>
        <aside class="pl-5 slim:p-0 line-l slim:border-0">
          <h3 class="mt-4 mb-1.5">{{ faults.length ? `${faults.length} to fix` : 'Valid' }}</h3>
          <p v-if="faults.length === 0"><VerdictMark verdict="go" quiet /> All fields are valid.</p>
          <ul v-else class="plain">
            <li v-for="(each, index) in faults.slice(0, 12)" :key="index" class="py-1 wrap-anywhere">
              <button
                type="button"
                class="bare py-1 px-0 font-inherit text-stop text-left bg-transparent bare-border min-h-11 cursor-pointer wrap-anywhere"
                @click="showFault(each.at)"
              >
                <span class="mono small">{{ each.at }}</span> {{ each.says }}
              </button>
            </li>
          </ul>
          <template v-if="claims.length">
            <h3 class="mt-4 mb-1.5">Claims images of another profile</h3>
            <p class="small">
              The same mark stands at the same place, and no device identifier tells them apart: an image of
              the one may be taken for the other. Give it a mark of its own, or read the device identifier
              from the block.
            </p>
            <ul class="plain">
              <li
                v-for="claim in claims"
                :key="`${claim.component} ${claim.family.id} ${claim.otherComponent}`"
                class="py-1 wrap-anywhere"
              >
                <VerdictMark verdict="hold" quiet />
                <RouterLink :to="{ name: 'family', params: { id: claim.family.id } }">{{
                  claim.family.name
                }}</RouterLink
                >,
                <span class="mono small">{{ claim.otherComponent }}</span>
              </li>
            </ul>
          </template>
          <template v-if="!isNew">
            <h3 class="mt-4 mb-1.5">Changed here</h3>
            <p v-if="changes.length === 0" class="soft">Nothing yet.</p>
            <ul v-else class="plain">
              <li v-for="change in changes.slice(0, 14)" :key="change.at" class="py-1 wrap-anywhere">
                <span class="mono small">{{ change.at }}</span>
                <small class="block small soft">{{ shown(change.before) }} → {{ shown(change.after) }}</small>
              </li>
            </ul>
          </template>
          <template v-if="history">
            <h3 class="mt-4 mb-1.5">History</h3>
            <ul class="plain">
              <li v-for="revision in history.revisions" :key="revision.revision" class="py-1 wrap-anywhere">
                Revision {{ revision.revision }}, {{ dayText(revision.addedAt) }}
                <small class="block small soft">{{
                  revision.runs === 0
                    ? 'no run was made by it'
                    : `${revision.runs} ${revision.runs === 1 ? 'run was' : 'runs were'} made by it; it stays as it is`
                }}</small>
              </li>
            </ul>
            <div v-if="history.revisions.length > 1" class="small soft">
              <span>Compare what is shown with</span>
              <PickOne
                v-model:value="against"
                label="Compare what is shown with"
                :options="[
                  { value: '', label: 'no revision' },
                  ...history.revisions.map(({ revision }) => ({
                    value: String(revision),
                    label: `revision ${revision}`,
                  })),
                ]"
              />
            </div>
            <ul v-if="other" class="plain compared">
              <li v-if="compared.length === 0" class="soft py-1 wrap-anywhere">No difference.</li>
              <li v-for="change in compared" :key="change.at" class="py-1 wrap-anywhere">
                <span class="mono small">{{ change.at }}</span>
                <small class="block small soft">{{ shown(change.before) }} → {{ shown(change.after) }}</small>
              </li>
            </ul>
          </template>
        </aside>
      </div>
    </template>
    <p v-else-if="!loading.problem.value && isNew" class="lead text-lead">
      Open the profile of equipment that is alike and start a new family from it, or import a profile as JSON.
      <RouterLink :to="{ name: 'families' }">To the profiles</RouterLink>
    </p>
    <p v-else-if="!loading.problem.value" class="soft" role="status">Loading…</p>
  </div>
</template>

<style scoped>
aside h3:first-child {
  margin-top: 0;
}
</style>
