<script setup lang="ts">
import type { ImageTable, ListedDefinition } from '@bench-wake/server'
import { NButton, NCollapse, NCollapseItem, NSkeleton } from 'naive-ui'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, got } from '../../stores/api'
import PickOne from '../PickOne.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import FigureMap from './FigureMap.vue'
import { figureText } from './words'

/** The tables of an image by its definition, for looking; nothing is changed here. */
const { imageId, definitionId = null } = defineProps<{ imageId: string; definitionId?: string | null }>()
const { busy, problem, askInTurn } = useAsked()
const definitions = shallowRef<ListedDefinition[]>([])
const chosen = ref<string | null>(definitionId)
const tables = shallowRef<ImageTable[] | null>(null)
watch(
  () => [imageId, definitionId],
  () => {
    tables.value = null
    chosen.value = definitionId
  },
)
const options = computed(() => definitions.value.map(({ id, name }) => ({ value: id, label: name })))
const open = () =>
  askInTurn(async () => {
    if (definitionId === null) {
      definitions.value = await got<ListedDefinition[]>(api.definitions.$get())
      chosen.value ??= definitions.value[0]?.id ?? null
    }
    if (chosen.value === null) {
      tables.value = []
      return
    }
    tables.value = await got<ImageTable[]>(
      api.definitions[':id'].tables[':image'].$get({ param: { id: chosen.value, image: imageId } }),
    )
  })
const only = (table: ImageTable) => table.cells.length === 1
</script>

<template>
  <div data-part="tables">
    <NButton v-if="tables === null" :loading="busy" @click="open">Show its tables</NButton>
    <ProblemNote v-if="problem" :problem="problem" />
    <NSkeleton v-if="busy && tables !== null" text :repeat="3" />
    <template v-if="tables !== null">
      <div v-if="definitionId === null && options.length > 1" class="mb-2.5 max-w-105">
        <PickOne
          v-model:value="chosen"
          label="Definition"
          :options="options"
          filterable
          @update:value="open"
        />
      </div>
      <!-- Those of the definition before are not those of the one that is chosen now. -->
      <p v-if="!busy && tables.length === 0" class="soft">
        {{
          chosen === null
            ? 'No definition is here yet. Import one with a round.'
            : 'The image holds none of its tables.'
        }}
      </p>
      <NCollapse v-else-if="!busy" arrow-placement="left">
        <NCollapseItem v-for="table in tables" :key="table.id" :name="table.id" :title="table.name">
          <template #header-extra>
            <span class="mono">{{
              only(table)
                ? `${figureText(table.cells[0] ?? null, table.decimals)} ${table.unit}`
                : `${table.x.points.length} × ${table.y.points.length}`
            }}</span>
          </template>
          <FigureMap
            :x="table.x"
            :y="table.y"
            :cells="table.cells"
            :decimals="table.decimals"
            :unit="table.unit"
            :label="table.name"
          />
        </NCollapseItem>
      </NCollapse>
    </template>
  </div>
</template>
