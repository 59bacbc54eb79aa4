<template>
  <span class="tabs"
    ><RouterLink to="/supervise">Schedules</RouterLink><RouterLink to="/supervise/trends">Trends</RouterLink
    ><RouterLink to="/supervise/alarms">Alarms</RouterLink></span
  >
</template>
