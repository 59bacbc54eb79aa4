<script setup lang="ts">
/** The stretches of seven days as seven thin ribbons, Monday first: what a week looks like at a glance. */
defineProps<{ days: readonly { day: string; stretches: readonly { from: number; to: number; says: string }[] }[]; today?: number | null }>()
</script>

<template>
  <span class="week" role="img" :aria-label="days.map((d) => `${d.day} ${d.stretches.map((s) => s.says).join(', ') || 'nothing'}`).join('; ')">
    <span
      v-for="(d, i) in days"
      :key="d.day"
      class="day"
      :class="{ today: i === today }"
      :title="`${d.day}: ${d.stretches.map((s) => s.says).join(', ') || 'nothing'}`"
      ><small>{{ d.day[0] }}</small
      ><span class="rail"><i v-for="(s, k) in d.stretches" :key="k" :style="{ left: `${s.from / 14.4}%`, width: `${(s.to - s.from) / 14.4}%` }" /></span
    ></span>
  </span>
</template>

<style scoped>
.week {
  display: flex;
  gap: 3px;
}
.day {
  width: 34px;
  line-height: 1;
}
small {
  font-size: 10px;
  color: var(--ink-2);
}
.today small {
  color: var(--plum);
  font-weight: 700;
}
.rail {
  display: block;
  position: relative;
  height: 8px;
  background: var(--sunk);
  border-radius: 3px;
  overflow: hidden;
}
i {
  position: absolute;
  top: 0;
  bottom: 0;
  background: var(--plum);
}
</style>
