<template>
  <span class="tabs"
    ><RouterLink to="/supervise" :class="{ on: $route.path.startsWith('/supervise/schedules') }">Schedules</RouterLink
    ><RouterLink to="/supervise/trends">Trends</RouterLink><RouterLink to="/supervise/alarms">Alarms</RouterLink></span
  >
</template>
