<template>
  <span class="tabs"
    ><RouterLink to="/plan" :class="{ on: $route.path === '/plan' || /^\/plan\/[^/]+$/.test($route.path) }">Section</RouterLink
    ><RouterLink to="/list/import">Import</RouterLink><RouterLink to="/list/summary">I/O</RouterLink
    ><RouterLink to="/library" :class="{ on: $route.path.startsWith('/library') }">Library</RouterLink><RouterLink to="/tags">Tags</RouterLink
    ><RouterLink to="/names">Names</RouterLink><RouterLink to="/findings">Findings</RouterLink><RouterLink to="/history">History</RouterLink></span
  >
</template>
