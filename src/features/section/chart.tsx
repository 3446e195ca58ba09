'use client';
import type { ApexOptions } from 'apexcharts';
import dynamic from 'next/dynamic';
import { memo } from 'react';
import { useSession } from '@/state';
import { PALETTE, type Palette } from '../palette';

/** Loaded where a chart is first shown, and never on a server. */
const Apex = dynamic(() => import('react-apexcharts'), { ssr: false });

/** Points of a series along both axes; no height is a gap. */
export interface ChartSeries {
  readonly name: string;
  readonly type: 'area' | 'line' | 'bar';
  readonly points: readonly (readonly [x: number, y: number | null])[];
  readonly colour: keyof Palette;
  /** Width of its line; 0 where it has none. */
  readonly line: number;
  readonly dashed?: boolean;
}

export interface ChartProps {
  readonly width: number;
  readonly height: number;
  /** What the axes run from and to, over all of width and height. */
  readonly x: readonly [number, number];
  readonly y: readonly [number, number];
  readonly series: readonly ChartSeries[];
}

/** Drawn into all of its frame: axes, numbers and the pointer belong to the plot around it. */
function optionsOf({ x, y, series }: ChartProps, colours: Palette): ApexOptions {
  const bars = series.every((s) => s.type === 'bar');
  return {
    chart: {
      // the plot around it says what is drawn, and takes no keys
      accessibility: { enabled: false, keyboard: { enabled: false } },
      animations: { enabled: false },
      background: 'transparent',
      sparkline: { enabled: true },
      toolbar: { show: false },
      zoom: { enabled: false },
    },
    colors: series.map((s) => colours[s.colour]),
    fill: { type: 'solid', opacity: 1 },
    legend: { show: false },
    markers: { size: 0 },
    plotOptions: { bar: { columnWidth: '92%' } },
    states: { hover: { filter: { type: 'none' } }, active: { filter: { type: 'none' } } },
    stroke: {
      curve: 'straight',
      width: series.map((s) => s.line),
      dashArray: series.map((s) => (s.dashed ? 5 : 0)),
    },
    tooltip: { enabled: false },
    // bars stand in the middle of their class, and classes share the width
    xaxis: bars ? { type: 'category' } : { type: 'numeric', min: x[0], max: x[1] },
    yaxis: { show: false, min: y[0], max: y[1] },
  };
}

/** What is plotted, without its frame: drawn anew only where it is other data, never for the pointer. */
export const Chart = memo(function Chart(props: ChartProps) {
  const colours = PALETTE[useSession((s) => s.theme)];
  const { width, height, series } = props;
  return (
    <Apex
      type={series[0]?.type ?? 'line'}
      width={width}
      height={height}
      options={optionsOf(props, colours)}
      series={series.map(({ name, type, points }) => ({
        name,
        type,
        data: points.map(([x, y]) => ({ x, y })),
      }))}
    />
  );
});
