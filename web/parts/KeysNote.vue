<script setup lang="ts">
import { NButton, NModal } from 'naive-ui'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { keysOf } from './screen-keys'

/** The keys of the screen a person is on. */
const emit = defineEmits<{ close: [] }>()
const route = useRoute()
const keys = computed(() => keysOf(String(route.name)))
const parts = computed(() => [
  ...(keys.value.here ? [{ title: `On ${String(route.meta['title'])}`, keys: keys.value.here }] : []),
  { title: 'Everywhere', keys: keys.value.everywhere },
])
</script>

<template>
  <NModal :show="true" @update:show="emit('close')">
    <div
      class="line-a-edge rounded bg-paper text-ink py-4 px-5 w-130 max-w-[calc(100vw-32px)]"
      role="dialog"
      aria-modal="true"
      aria-label="Keys"
    >
      <section v-for="part in parts" :key="part.title" class="mb-3">
        <h2>{{ part.title }}</h2>
        <dl class="m-0">
          <div
            v-for="[key, does] in part.keys"
            :key="key + does"
            class="grid py-1 gap-3 grid-cols-[150px_1fr] line-t phone:grid-cols-[110px_1fr]"
          >
            <dt>
              <kbd class="font-650">{{ key }}</kbd>
            </dt>
            <dd class="m-0">{{ does }}</dd>
          </div>
        </dl>
      </section>
      <NButton @click="emit('close')">Close</NButton>
    </div>
  </NModal>
</template>
