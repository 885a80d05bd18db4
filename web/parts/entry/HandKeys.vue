<script setup lang="ts">
import type { EntryEvent, EntryState } from '@bench-wake/core/entry'
import type { ActRole } from '@bench-wake/core/family'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { roleNames } from './roles'

/** A key for each hand, held as the hand holds: what is pressed and let go is told to the judge. */
const { state } = defineProps<{ state: EntryState }>()
const emit = defineEmits<{ act: [event: EntryEvent] }>()

const due = () => (state.outcome === 'going' ? state.acts[state.step] : undefined)
/** Keys that stand for what hands do: held as the hand holds. */
const keys: Partial<Record<string, ActRole>> = { f: 'left', j: 'right', h: 'helper', b: 'foot' }
const roleKeys: Partial<Record<ActRole, string>> = { left: 'F', right: 'J', helper: 'H', foot: 'B' }
const roles = computed<ActRole[]>(() =>
  [...new Set(state.acts.map(({ by }) => by))].filter((by) => by !== 'program'),
)
/** What each role's key is held down for. */
const pressed = ref<Partial<Record<ActRole, string>>>({})
function down(role: ActRole) {
  if (role in pressed.value) return
  const act = due()
  if (!act || act.by !== role || act.act === 'release') {
    // Another thing than is due: the judge says so.
    const own = state.acts.find(
      (each, index) => index >= state.step && each.by === role && each.act !== 'release',
    )
    if (own && state.outcome === 'going')
      emit('act', { at: performance.now(), type: 'did', act: own.act, what: own.what })
    return
  }
  if (act.act === 'hold') pressed.value = { ...pressed.value, [role]: act.what }
  emit('act', { at: performance.now(), type: 'did', act: act.act, what: act.what })
}
function up(role: ActRole) {
  const what = pressed.value[role]
  if (what === undefined) return
  const { [role]: _gone, ...rest } = pressed.value
  pressed.value = rest
  emit('act', { at: performance.now(), type: 'did', act: 'release', what })
}
useEventListener('keydown', (event: KeyboardEvent) => {
  if (event.repeat || event.ctrlKey || event.metaKey || event.altKey) return
  const target = event.target as HTMLElement | null
  if (target?.closest('input, select, textarea')) return
  const role = keys[event.key.toLowerCase()]
  if (role && roles.value.includes(role)) {
    event.preventDefault()
    down(role)
  }
})
useEventListener('keyup', (event: KeyboardEvent) => {
  const role = keys[event.key.toLowerCase()]
  if (role) up(role)
})
</script>

<template>
  <div>
    <div class="flex gap-2.5 flex-wrap">
      <button
        v-for="role in roles"
        :key="role"
        type="button"
        class="hand-key py-2 px-4 font-inherit text-inherit bg-sheet min-h-14 min-w-35 cursor-pointer frame-edge rounded touch-none select-none"
        :class="{ down: role in pressed }"
        :aria-label="`${roleNames[role]}: hold as the hand holds, key ${roleKeys[role]}`"
        @pointerdown.prevent="down(role)"
        @pointerup="up(role)"
        @pointerleave="up(role)"
      >
        {{ roleNames[role] }}
        <kbd class="ml-1.5 py-0.25 px-1.5 line-a-edge rounded">{{ roleKeys[role] }}</kbd>
      </button>
    </div>
    <p class="small soft">
      Enter, Space or a foot pedal says “now”. Or hold
      {{ roles.map((role) => roleKeys[role]).join(' and ') }} as your hands hold.
    </p>
  </div>
</template>

<style scoped>
.hand-key.down {
  background: var(--brass);
  color: var(--brass-ink);
}
kbd {
  font: 13px var(--mono);
}
</style>
