<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import uPlot from 'uplot'
import 'uplot/dist/uPlot.min.css'
import { onBeforeUnmount, ref, watch } from 'vue'
import type { Schemas } from '../shared/api/http'
import { siteTime } from '../shared/numbers'

/** Several trends over one time: analog as lines, binary as steps beneath; a gap in the samples is a gap in the line. */
const props = defineProps<{ data: Schemas['TrendData'][]; from: number; to: number; zone: string }>()
const emit = defineEmits<{ range: [from: number, to: number] }>()
const host = ref<HTMLElement>()
const { width, height } = useElementSize(host)
const colours = ['#9c4a2f', '#5a4478', '#3f7fa6', '#5e7d4a', '#b87a12', '#b3264a', '#2b6f6b', '#8a5a9c', '#6a6058', '#c7622c', '#335c81', '#7a8b2f']
let plot: uPlot | null = null

/** All series on one time axis; between samples a line goes on, but across a gap it does not. */
function joined(): uPlot.AlignedData {
  const tables = props.data.map((d) => {
    const at: number[] = []
    const v: (number | null)[] = []
    d.at.forEach((t, i) => {
      const before = d.at[i - 1]
      if (
        before !== undefined &&
        d.gapAfterSeconds > 0 &&
        Number(t) - Number(before) > Math.max(d.gapAfterSeconds * 1000, ((props.to - props.from) / 600) * 3)
      ) {
        at.push((Number(before) + 1) / 1000)
        v.push(null)
      }
      // A column holds more than it can show as one value: the line goes to its least and its greatest on the way, so that
      // no spike is hidden, however short beside the time that is looked at.
      const [least, greatest, last] = [d.least[i] ?? null, d.greatest[i] ?? null, d.last[i] ?? null]
      const extremes = least !== null && greatest !== null && least !== greatest ? (last === greatest ? [least, greatest] : [greatest, least]) : []
      const next = Number(d.at[i + 1] ?? props.to)
      const step = Math.min(next - Number(t), (props.to - props.from) / 600) / 4000
      for (const [n, value] of [...extremes, last].entries()) {
        at.push(Number(t) / 1000 + n * step)
        v.push(value)
      }
    })
    // A log by change holds its value until the next change, so the last one goes on to the right edge.
    if (d.gapAfterSeconds === 0 && at.length) {
      at.push(props.to / 1000)
      v.push(v.at(-1)!)
    }
    return [at, v] as uPlot.AlignedData
  })
  return tables.length
    ? uPlot.join(
        tables,
        tables.map((t) => t.map(() => 2)),
      )
    : [[]]
}
function draw() {
  plot?.destroy()
  plot = null
  if (!host.value || !width.value || !props.data.length) return
  const css = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()
  const units = [...new Set(props.data.map((d) => (d.kind === 'analog' ? d.unit || 'number' : 'state')))]
  const axis = {
    stroke: css('--ink-2'),
    grid: { stroke: css('--rule'), width: 1 },
    ticks: { stroke: css('--rule') },
    font: '12px Atkinson Hyperlegible Next Variable, sans-serif',
  }
  plot = new uPlot(
    {
      width: width.value,
      height: Math.max(220, height.value - 40 - 22 * Math.ceil(props.data.length / 3)),
      tzDate: (ts) => uPlot.tzDate(new Date(ts * 1000), props.zone),
      fmtDate: (tpl) => uPlot.fmtDate(tpl),
      cursor: { drag: { x: true, y: false } },
      scales: {
        x: { time: true, min: props.from / 1000, max: props.to / 1000 },
        ...Object.fromEntries(units.map((u) => [u, u === 'state' ? { range: [-0.2, 6] as [number, number] } : {}])),
      },
      series: [
        {
          value: (_, t) => (t == null ? '–' : siteTime(t * 1000, props.zone, true, true)),
        },
        ...props.data.map((d, i) => {
          const states = d.kind !== 'analog'
          return {
            label: d.name,
            scale: states ? 'state' : d.unit || 'number',
            stroke: colours[i % colours.length]!,
            width: states ? 2 : 1.6,
            dash: i > 5 ? [6, 3] : undefined,
            paths: states || d.gapAfterSeconds === 0 ? uPlot.paths.stepped!({ align: 1 }) : undefined,
            points: { show: false },
            spanGaps: false,
            value: (_: uPlot, v: number | null) =>
              v == null ? '–' : states ? (d.stateTexts[d.kind === 'binary' ? v : v - 1] ?? String(v)) : `${v.toFixed(1)} ${d.unit ?? ''}`,
          } satisfies uPlot.Series
        }),
      ],
      axes: [
        {
          ...axis,
          values: [
            [3600 * 24, '{MM}-{DD}', null, null, null, null, null, null, 1],
            [3600, '{HH}:{mm}', '\n{MM}-{DD}', null, '\n{MM}-{DD}', null, null, null, 1],
            [60, '{HH}:{mm}', '\n{MM}-{DD}', null, '\n{MM}-{DD}', null, null, null, 1],
            [1, '{HH}:{mm}:{ss}', '\n{MM}-{DD}', null, '\n{MM}-{DD}', null, null, null, 1],
          ] as uPlot.Axis.Values,
        },
        ...units
          .filter((u) => u !== 'state')
          .map((u, i) => ({
            ...axis,
            scale: u,
            side: (i % 2 ? 1 : 3) as 1 | 3,
            label: u,
            labelSize: 18,
            labelFont: axis.font,
            size: 52,
            grid: i ? { show: false } : axis.grid,
          })),
      ],
      hooks: {
        setSelect: [
          (u) => {
            if (u.select.width > 4)
              emit('range', Math.round(u.posToVal(u.select.left, 'x') * 1000), Math.round(u.posToVal(u.select.left + u.select.width, 'x') * 1000))
          },
        ],
      },
    },
    joined(),
    host.value,
  )
}
watch([() => props.data, width, height], draw, { flush: 'post' })
onBeforeUnmount(() => plot?.destroy())
function wheel(e: WheelEvent) {
  const box = host.value!.getBoundingClientRect()
  const share = (e.clientX - box.left) / box.width
  const span = props.to - props.from
  const next = e.shiftKey ? span : span * (e.deltaY > 0 ? 1.25 : 0.8)
  const begin = e.shiftKey ? props.from + span * 0.1 * Math.sign(e.deltaY || e.deltaX) : props.from + (span - next) * share
  emit('range', Math.round(begin), Math.round(begin + next))
}
</script>

<template>
  <div ref="host" class="chart" @wheel.prevent="wheel" />
</template>

<style>
.chart {
  flex: 1;
  min-height: 330px;
  min-width: 0;
  overflow: hidden;
}
.chart .u-legend {
  text-align: left;
  font: 12.5px var(--sans);
  color: var(--ink);
}
.chart .u-legend .u-value {
  font-family: var(--mono);
}
</style>
