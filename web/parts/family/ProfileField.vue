<script setup lang="ts">
import { NButton, NInput } from 'naive-ui'
import { computed, inject, ref } from 'vue'
import PickOne from '../PickOne.vue'
import JsonField from './JsonField.vue'
import {
  chosenOf,
  entryName,
  isWritten,
  labelOf,
  profileForm,
  startOf,
  tellOf,
  valueAt,
  type FieldSchema,
} from './profile-form'

defineOptions({ name: 'ProfileField' })
const {
  schema,
  path,
  required = true,
  bare = false,
} = defineProps<{
  schema: FieldSchema
  path: readonly string[]
  required?: boolean
  /** Without a label of its own: an entry of a list has its name on its head. */
  bare?: boolean
}>()
const form = inject(profileForm)!
const value = computed(() => valueAt(form.document.value, path))
const own = computed(() => chosenOf(schema, value.value))
const fault = computed(() => form.faultAt(path))
const key = computed(() => path[path.length - 1] ?? '')
const label = computed(() => labelOf(key.value))
const id = computed(() => `field-${path.join('.')}`)
const tell = computed(() => tellOf(schema))
const kinds = computed(() =>
  (schema.oneOf ?? []).flatMap((each) => {
    const kind = each.properties?.[tell.value ?? '']
    return kind?.const !== undefined ? [kind.const] : (kind?.enum ?? [])
  }),
)
const kindOf = computed(() => (value.value as Record<string, string> | undefined)?.[tell.value ?? ''])
/** Entries that stand open: one that a fault opened stays so when it is mended. */
const opened = ref(new Set<number>())
function turned(index: number, open: boolean) {
  if (open) opened.value.add(index)
  else opened.value.delete(index)
}

const list = computed(() => (Array.isArray(value.value) ? value.value : []))
const entries = computed(() => Object.entries((value.value as Record<string, string> | undefined) ?? {}))
const isRecord = computed(() => typeof own.value.additionalProperties === 'object')

function typed(text: string) {
  if (own.value.type === 'string') {
    form.set(path, text === '' && !required ? undefined : text)
    return
  }
  const number = Number(text.replace(',', '.'))
  if (text.trim() === '') form.set(path, required ? null : undefined)
  // What is no number stays as it was typed, and is pointed at.
  else form.set(path, Number.isFinite(number) ? number : text)
}
function chooseKind(kind: string) {
  const fresh = schema.oneOf!.find((each) => {
    const member = each.properties?.[tell.value ?? '']
    return member?.const === kind || member?.enum?.includes(kind)
  })!
  const start = startOf(fresh) as Record<string, unknown>
  const kept = Object.fromEntries(
    Object.entries((value.value as Record<string, unknown> | undefined) ?? {}).filter(
      ([member]) => member in (fresh.properties ?? {}),
    ),
  )
  form.set(path, { ...start, ...kept, [tell.value ?? '']: kind })
}
function add() {
  opened.value.add(list.value.length)
  form.set(path, [...list.value, startOf(own.value.items!)])
}
function swap(index: number, by: number) {
  const copy = [...list.value]
  const [entry] = copy.splice(index, 1)
  copy.splice(index + by, 0, entry)
  opened.value.clear()
  form.set(path, copy)
}
const scalar = computed(
  () => ['string', 'number', 'integer'].includes(own.value.type ?? '') && !own.value.enum,
)
/** What the select holds where a field that may be left out is. */
const notSaid = ''
/** What may be chosen, each by its JSON; null where the field is typed. */
const choices = computed(() => {
  const { enum: words, type } = own.value
  const of = words
    ? words.map((word) => ({
        value: JSON.stringify(word),
        // A line end would not be seen.
        label: /[\r\n]/.test(String(word)) ? JSON.stringify(word) : String(word),
      }))
    : type === 'boolean'
      ? [
          { value: 'true', label: 'yes' },
          { value: 'false', label: 'no' },
        ]
      : null
  return of && (required ? of : [{ value: notSaid, label: 'not said' }, ...of])
})
const isLong = computed(() =>
  ['summary', 'says', 'because', 'caution', 'asks', 'powerCycle', 'do'].includes(key.value),
)
const isMono = computed(
  () => own.value.pattern !== undefined || ['magic', 'send', 'reads', 'example'].includes(key.value),
)
</script>

<template>
  <div v-if="own.const !== undefined" hidden />
  <JsonField v-else-if="isWritten(schema, path)" :schema="schema" :path="path" :required="required" />
  <!-- An optional part that is not there yet. -->
  <div
    v-else-if="value === undefined && (own.type === 'object' || own.type === 'array')"
    class="flex py-1.5 gap-2.5 flex-wrap items-center"
  >
    <NButton size="small" @click="form.set(path, startOf(schema))">Add {{ label.toLowerCase() }}</NButton>
    <span class="small soft">{{ schema.description }}</span>
    <p v-if="fault" :id="`${id}-fault`" class="fault">{{ fault }}</p>
  </div>
  <fieldset
    v-else-if="own.type === 'object' && isRecord"
    :id="id"
    class="group my-3.5 mx-0 pt-0.5 pb-1.5 pl-4 pr-0 min-w-0"
  >
    <legend v-if="!bare" class="-ml-4 p-0 font-650">{{ label }}</legend>
    <p class="small soft">{{ own.description ?? schema.description }}</p>
    <div
      v-for="[name, text] in entries"
      :key="name"
      class="grid py-1 gap-2.5 grid-cols-[120px_minmax(0,1fr)_auto] items-center"
    >
      <span class="mono">{{ name }}</span>
      <NInput
        :value="text"
        :input-props="{ 'aria-label': `${label}, ${name}` }"
        @update:value="form.set([...path, name], $event)"
      />
      <NButton size="small" @click="form.set([...path, name], undefined)">Remove</NButton>
    </div>
    <NButton size="small" @click="form.set([...path, String(entries.length)], '')">One more</NButton>
    <p v-if="fault" class="fault">{{ fault }}</p>
  </fieldset>
  <fieldset
    v-else-if="own.type === 'object'"
    :id="id"
    class="group my-3.5 mx-0 pt-0.5 pb-1.5 pl-4 pr-0 min-w-0"
    :class="{ bare }"
  >
    <legend v-if="!bare" class="-ml-4 p-0 font-650">
      {{ label
      }}<NButton v-if="!required" size="tiny" quaternary @click="form.set(path, undefined)">take out</NButton>
    </legend>
    <p v-if="!bare && schema.description" class="small soft">{{ schema.description }}</p>
    <label
      v-if="kinds.length"
      class="ask grid py-1.25 gap-3.5 grid-cols-[190px_minmax(0,1fr)] phone:gap-0.5 phone:grid-cols-1"
    >
      <span>{{ tell === 'speaks' ? 'Speaks' : 'Kind' }}</span>
      <PickOne
        :value="kindOf ?? null"
        :label="tell === 'speaks' ? 'Speaks' : 'Kind'"
        :options="kinds.map((kind) => ({ value: kind, label: String(kind) }))"
        @update:value="(kind) => kind !== null && chooseKind(String(kind))"
      />
    </label>
    <template v-for="(member, name) in own.properties" :key="name">
      <ProfileField
        v-if="!(kinds.length && name === tell)"
        :schema="member"
        :path="[...path, String(name)]"
        :required="own.required?.includes(String(name)) ?? false"
      />
    </template>
    <p v-if="fault" class="fault">{{ fault }}</p>
  </fieldset>
  <fieldset
    v-else-if="own.type === 'array'"
    :id="id"
    class="group my-3.5 mx-0 pt-0.5 pb-1.5 pl-4 pr-0 min-w-0"
  >
    <legend v-if="!bare" class="-ml-4 p-0 font-650">
      {{ label
      }}<NButton v-if="!required" size="tiny" quaternary @click="form.set(path, undefined)">take out</NButton>
    </legend>
    <p v-if="schema.description" class="small soft">{{ schema.description }}</p>
    <template v-for="(entry, index) in list" :key="index">
      <details
        v-if="typeof entry === 'object' && entry !== null"
        class="entry line-b"
        :open="opened.has(index) || form.faulty([...path, String(index)])"
        @toggle.self="turned(index, ($event.target as HTMLDetailsElement).open)"
      >
        <summary class="flex gap-3 justify-between items-center min-h-11 cursor-pointer">
          <span>{{ entryName(entry, index) }}</span>
          <span v-if="form.faulty([...path, String(index)])" class="fault">to fix</span>
        </summary>
        <ProfileField :schema="own.items!" :path="[...path, String(index)]" bare />
        <p class="acts mt-2 mb-3 gap-2">
          <NButton size="small" :disabled="index === 0" @click="swap(index, -1)">Up</NButton>
          <NButton size="small" :disabled="index === list.length - 1" @click="swap(index, 1)">Down</NButton>
          <NButton size="small" @click="form.set([...path, String(index)], undefined)"
            >Remove {{ entryName(entry, index) }}</NButton
          >
        </p>
      </details>
      <div v-else class="grid py-1 gap-2.5 grid-cols-[minmax(0,1fr)_auto] items-center">
        <ProfileField :schema="own.items!" :path="[...path, String(index)]" bare />
        <NButton size="small" @click="form.set([...path, String(index)], undefined)">Remove</NButton>
      </div>
    </template>
    <NButton size="small" @click="add">Add to {{ label.toLowerCase() }}</NButton>
    <p v-if="fault" class="fault">{{ fault }}</p>
  </fieldset>
  <label
    v-else
    class="ask grid py-1.25 gap-3.5 grid-cols-[190px_minmax(0,1fr)] phone:gap-0.5 phone:grid-cols-1"
    :class="{ bare }"
  >
    <span v-if="!bare">{{ label }}<small v-if="!required" class="small"> if any</small></span>
    <span class="block min-w-0">
      <PickOne
        v-if="choices"
        :id="id"
        :value="value === undefined ? notSaid : JSON.stringify(value)"
        :label="label"
        :options="choices"
        @update:value="form.set(path, $event === notSaid ? undefined : JSON.parse($event))"
      />
      <NInput
        v-else-if="scalar"
        :value="value === undefined || value === null ? '' : String(value)"
        :type="isLong ? 'textarea' : 'text'"
        v-bind="{
          ...(isLong ? { autosize: { minRows: 1, maxRows: 5 } } : {}),
          ...(fault ? { status: 'error' as const } : {}),
        }"
        :class="{ mono: isMono }"
        :input-props="{
          id,
          'aria-label': bare ? `${label}` : undefined,
          'aria-invalid': fault ? 'true' : undefined,
          'aria-describedby': fault ? `${id}-fault` : undefined,
        }"
        @update:value="typed"
      />
      <small v-if="fault" :id="`${id}-fault`" class="fault small">{{ fault }}</small>
      <small v-else-if="schema.description && !bare" class="soft small">{{ schema.description }}</small>
    </span>
  </label>
</template>

<style scoped>
.group {
  border: 0;
  border-left: 2px solid var(--hair);
}
.group.bare {
  border: 0;
  padding: 0;
  margin: 0;
}
.ask.bare {
  grid-template-columns: minmax(0, 1fr);
}
.ask > span:first-child {
  padding-top: 10px;
  color: var(--soft);
}
.ask.bare > span:first-child {
  padding-top: 0;
}
summary::before {
  content: '›';
  width: 14px;
  color: var(--soft);
}
details[open] > summary::before {
  content: '⌄';
}
summary > span:first-of-type {
  flex: 1;
}
</style>
