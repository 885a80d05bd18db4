<script setup lang="ts">
import type { FamilyDocument, StageName } from '@bench-wake/core/family'
import VerdictMark from '../VerdictMark.vue'

/** What a person should see in a stage, what is normal though it may alarm, and what to do where it is not so. */
defineProps<{ stage: NonNullable<NonNullable<FamilyDocument['stages']>[StageName]> }>()
</script>

<template>
  <div class="signs">
    <section v-if="stage.see.length">
      <h3>You should see</h3>
      <ul>
        <li v-for="sign in stage.see" :key="sign"><VerdictMark verdict="go" quiet />{{ sign }}</li>
      </ul>
    </section>
    <section v-if="stage.normal?.length">
      <h3>Normal, though it may alarm</h3>
      <ul>
        <li v-for="sign in stage.normal" :key="sign"><VerdictMark verdict="note" quiet />{{ sign }}</li>
      </ul>
    </section>
    <section v-if="stage.ifNot?.length">
      <h3>If not</h3>
      <ul>
        <li v-for="each in stage.ifNot" :key="each.sign">
          <VerdictMark verdict="hold" quiet />{{ each.sign }}. {{ each.do }}
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.signs {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 20px 36px;
  border-top: 1px solid var(--hair);
  padding-top: 20px;
}
.signs ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
.signs li {
  position: relative;
  padding: 0 0 10px 26px;
  font-size: 18px;
  line-height: 1.35;
}
.signs li > svg {
  position: absolute;
  left: 0;
  top: 5px;
}
</style>
