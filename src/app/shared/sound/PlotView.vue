<script setup lang="ts">
import { computed } from 'vue';
import VueApexCharts from 'vue3-apexcharts';
import { usePrefs } from '../../stores/prefs';

const props = defineProps<{
  points: number[][];
  colour: string;
  label: string;
  xUnit: string;
  yUnit: string;
  /** How a place on the x axis is written, where it is not the number itself. */
  xText?: (x: number) => string;
  range?: [number, number];
}>();

const prefs = usePrefs();
const font = '"Atkinson Hyperlegible Mono Variable"';
const write = (x: number) => props.xText?.(x) ?? String(Number(x.toFixed(1)));
const options = computed(() => {
  const labels = { style: { colors: prefs.palette.mute, fontFamily: font, fontSize: '11px' } };
  return {
    chart: { animations: { enabled: false }, toolbar: { show: false }, zoom: { enabled: false }, background: 'transparent' },
    colors: [props.colour],
    stroke: { width: 1.5, curve: 'straight' as const },
    dataLabels: { enabled: false },
    grid: { borderColor: prefs.palette.line, padding: { left: 4, right: 8, top: -16, bottom: -4 } },
    xaxis: {
      type: 'numeric' as const,
      min: props.range?.[0],
      max: props.range?.[1],
      tickAmount: 5,
      labels: { ...labels, formatter: (x: string) => write(Number(x)) },
      axisBorder: { show: false },
      axisTicks: { color: prefs.palette.line },
      tooltip: { enabled: false },
    },
    yaxis: { tickAmount: 3, decimalsInFloat: 0, labels: { ...labels, formatter: (y: number) => y.toFixed(0) } },
    tooltip: {
      theme: prefs.theme,
      x: { formatter: (x: number) => write(x) + props.xUnit },
      y: { formatter: (y: number) => y.toFixed(1) + props.yUnit, title: { formatter: () => '' } },
      marker: { show: false },
    },
  };
});
</script>

<template>
  <div role="img" :aria-label="label">
    <VueApexCharts type="line" height="120" :options="options" :series="[{ name: label, data: points }]" />
  </div>
</template>
