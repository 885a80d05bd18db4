<template>
  <div class="page">
    <h1>There is no such page</h1>
    <p class="soft">The address may be mistyped. <RouterLink to="/">Back to today</RouterLink></p>
  </div>
</template>
