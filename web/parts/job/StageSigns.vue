<script setup lang="ts">
import type { FamilyDocument, StageName } from '@bench-wake/core/family'
import VerdictMark from '../VerdictMark.vue'

/** What a person should see in a stage, what is normal though it may alarm, and what to do where it is not so. */
defineProps<{ stage: NonNullable<NonNullable<FamilyDocument['stages']>[StageName]> }>()
</script>

<template>
  <div class="signs grid pt-5 gap-y-5 gap-x-9 fit-220 line-t">
    <section v-if="stage.see.length">
      <h3>You should see</h3>
      <ul class="mt-1.5 mb-0 mx-0 p-0 list-none">
        <li v-for="sign in stage.see" :key="sign" class="pb-2.5 pl-6.5 relative text-lead leading-[1.35]">
          <VerdictMark class="absolute left-0" verdict="go" quiet />{{ sign }}
        </li>
      </ul>
    </section>
    <section v-if="stage.normal?.length">
      <h3>Normal, though it may alarm</h3>
      <ul class="mt-1.5 mb-0 mx-0 p-0 list-none">
        <li v-for="sign in stage.normal" :key="sign" class="pb-2.5 pl-6.5 relative text-lead leading-[1.35]">
          <VerdictMark class="absolute left-0" verdict="note" quiet />{{ sign }}
        </li>
      </ul>
    </section>
    <section v-if="stage.ifNot?.length">
      <h3>If not</h3>
      <ul class="mt-1.5 mb-0 mx-0 p-0 list-none">
        <li
          v-for="each in stage.ifNot"
          :key="each.sign"
          class="pb-2.5 pl-6.5 relative text-lead leading-[1.35]"
        >
          <VerdictMark class="absolute left-0" verdict="hold" quiet />{{ each.sign }}. {{ each.do }}
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.signs li > svg {
  top: 5px;
}
</style>
