<script setup lang="ts">
import { NButton, NForm, NFormItem, NInput } from 'naive-ui'
import { computed, reactive } from 'vue'
import { useRouter } from 'vue-router'
import { useAccess } from '../stores/access'
import { api, got } from '../stores/api'
import { useLook } from '../stores/look'
import ProblemNote from './ProblemNote.vue'
import { useAsked } from './useAsked'

/** Signing in by the password, or by the code that another device showed: its link brings it after the hash sign. */
const look = useLook()
const access = useAccess()
const router = useRouter()
const { busy, problem, ask } = useAsked()
const code = new URLSearchParams(location.hash.slice(1)).get('code')
const form = reactive({
  person: look.name,
  password: '',
  device: matchMedia('(pointer: coarse)').matches ? 'Phone or tablet' : 'Laptop',
})
const ready = computed(
  () => form.person.trim() && form.device.trim() && (code !== null || form.password !== ''),
)
const enter = () =>
  ask(async () => {
    const { person, device, password } = form
    await got(
      code === null
        ? api.access['sign-in'].$post({ json: { person, device, password } })
        : api.access.pair.$post({ json: { person, device, code } }),
    )
    await access.load()
    if (code !== null) await router.replace({ name: 'today' })
  })
</script>

<template>
  <div class="page narrow grid gap-3.5 max-w-140">
    <h1>{{ code === null ? 'Who works here?' : 'Join this device' }}</h1>
    <p class="soft">
      {{
        code === null
          ? 'Units are written from here. Your name goes under every word you give.'
          : 'It shows what the first device shows, and coaches you beside the unit. Your name goes under every word you give.'
      }}
    </p>
    <p v-if="access.state?.encrypted === false" class="py-1.5 px-3.5 bar-hold">
      Nothing is encrypted: whoever is in this network can read along, the password too.
    </p>
    <ProblemNote v-if="problem" :problem="problem" />
    <NForm :show-feedback="false" @submit.prevent="enter">
      <NFormItem label="Your name">
        <NInput
          v-model:value="form.person"
          placeholder=""
          :input-props="{ autocomplete: 'name', 'aria-label': 'Your name' }"
        />
      </NFormItem>
      <NFormItem v-if="code === null" label="Password">
        <NInput
          v-model:value="form.password"
          placeholder=""
          type="password"
          show-password-on="click"
          :input-props="{ autocomplete: 'current-password', 'aria-label': 'Password' }"
        />
      </NFormItem>
      <NFormItem label="This device">
        <NInput v-model:value="form.device" placeholder="" :input-props="{ 'aria-label': 'This device' }" />
      </NFormItem>
      <NButton type="primary" size="large" attr-type="submit" :loading="busy" :disabled="!ready">
        {{ code === null ? 'Sign in' : 'Join' }}
      </NButton>
    </NForm>
  </div>
</template>

<style scoped>
.narrow form {
  display: grid;
  gap: 14px;
}
</style>
