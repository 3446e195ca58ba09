'use client';
import type { ApexOptions } from 'apexcharts';
import Chart from 'react-apexcharts';
import { formatShort } from '@/core/base';
import { useSession } from '@/state';
import { ticks } from '@/ui';
import { PALETTE } from '../palette';
import { usePlan } from '../hooks';

/** Elevations of the fitted ground: 64 classes from lowest to highest. */
export default function Histogram({ height }: { height: number }) {
  const ground = useSession((s) => s.ground);
  const theme = useSession((s) => s.theme);
  const plan = usePlan();
  if (!ground || !plan || plan.document.height.groundLow === null || plan.document.height.groundHigh === null) {
    return <p className="px-4 py-3 text-quiet">The ground is being measured.</p>;
  }
  const low = plan.document.height.groundLow;
  const high = plan.document.height.groundHigh;
  const width = (high - low) / 64;
  // the axis begins and ends on round elevations, with the ground between
  const [first = low, second = high] = ticks(low, high, 8);
  const step = second - first || 1;
  const axis = { min: Math.floor(low / step) * step, max: Math.ceil(high / step) * step };
  const all = ground.histogram.reduce((a, b) => a + b, 0) || 1;
  const data = Array.from({ length: 64 }, (_, i) => ({
    x: low + (i + 0.5) * width,
    y: (100 * ground.histogram.slice(i * 4, i * 4 + 4).reduce((a, b) => a + b, 0)) / all,
  }));
  const night = theme === 'night';
  const { quiet, kelp, rule } = PALETTE[theme];
  const options: ApexOptions = {
    chart: {
      type: 'bar',
      toolbar: { show: false },
      animations: { enabled: false },
      fontFamily: 'inherit',
      background: 'transparent',
      zoom: { enabled: false },
    },
    plotOptions: { bar: { columnWidth: '92%' } },
    colors: [kelp],
    dataLabels: { enabled: false },
    grid: { borderColor: rule, padding: { top: -16, bottom: 2, left: 12, right: 8 } },
    xaxis: {
      type: 'numeric',
      ...axis,
      tickAmount: Math.round((axis.max - axis.min) / step),
      labels: {
        style: { colors: quiet, fontSize: '12px' },
        formatter: (v: string) => `${formatShort(Number(v), step < 1 ? 2 : 0)} m`,
      },
      axisTicks: { show: false },
    },
    yaxis: {
      tickAmount: 2,
      labels: { style: { colors: quiet, fontSize: '12px' }, formatter: (v: number) => `${formatShort(v, 1)} %` },
    },
    tooltip: {
      theme: night ? 'dark' : 'light',
      x: { formatter: (v: number) => `${formatShort(v, 1)} m` },
      y: { title: { formatter: () => 'share' } },
    },
  };
  return <Chart type="bar" height={height} options={options} series={[{ name: 'share', data }]} />;
}
