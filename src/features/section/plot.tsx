'use client';
import { scaleLinear, type ScaleLinear } from 'd3-scale';
import type { ReactNode } from 'react';
import { Chart, type ChartSeries } from './chart';

const LEFT = 52;
const RIGHT = 16;
const TOP = 8;
const BOTTOM = 20;

type Scale = ScaleLinear<number, number>;

interface PlotProps {
  readonly width: number;
  readonly height: number;
  /** What the axes run from and to. */
  readonly x: readonly [number, number];
  readonly y: readonly [number, number];
  readonly xText: (value: number) => string;
  readonly yText: (value: number) => string;
  /** About how many numbers stand along each axis. */
  readonly numbers: readonly [number, number];
  /** The same one for as long as it shows the same. */
  readonly series: readonly ChartSeries[];
  /** What is drawn, in words. */
  readonly label: string;
  /** Where the pointer is along the axis; null beside the drawing. */
  readonly onPoint: (x: number | null) => void;
  /** Where it points and what it says there. */
  readonly pointed: { readonly x: number; readonly text: string } | null;
  /** Marks over what is plotted. */
  readonly children?: (x: Scale, y: Scale) => ReactNode;
}

/** Every drawing under the map: a chart in the frame of its axes, and a line with a sentence where the pointer is. */
export function Plot({ width, height, numbers, series, label, onPoint, pointed, children, ...axis }: PlotProps) {
  const right = Math.max(LEFT + 1, width - RIGHT);
  const foot = Math.max(TOP + 1, height - BOTTOM);
  const x = scaleLinear(axis.x, [LEFT, right]);
  const y = scaleLinear(axis.y, [foot, TOP]);
  const at = pointed && x(pointed.x);
  // the sentence stands on the side that has room for it
  const turned = at !== null && at > LEFT + (right - LEFT) * 0.72;
  return (
    <div
      role="img"
      aria-label={label}
      className="relative num text-[12px]"
      style={{ width, height }}
      onPointerMove={(e) => {
        const found = x.invert(e.clientX - e.currentTarget.getBoundingClientRect().left);
        onPoint(found >= axis.x[0] && found <= axis.x[1] ? found : null);
      }}
      onPointerLeave={() => onPoint(null)}
    >
      <svg width={width} height={height} className="absolute inset-0">
        {y.ticks(numbers[1]).map((t) => (
          <g key={t}>
            <line x1={LEFT} x2={right} y1={y(t)} y2={y(t)} className="stroke-rule" strokeWidth="1" />
            <text x={LEFT - 6} y={y(t) + 4} textAnchor="end" className="fill-quiet">
              {axis.yText(t)}
            </text>
          </g>
        ))}
        {x.ticks(numbers[0]).map((t) => (
          <text
            key={t}
            x={x(t)}
            y={height - 5}
            textAnchor={t === axis.x[0] ? 'start' : t === axis.x[1] ? 'end' : 'middle'}
            className="fill-quiet"
          >
            {axis.xText(t)}
          </text>
        ))}
      </svg>
      <div className="absolute overflow-hidden pointer-events-none" style={{ left: LEFT, top: TOP }} aria-hidden="true">
        <Chart width={right - LEFT} height={foot - TOP} x={axis.x} y={axis.y} series={series} />
      </div>
      <svg width={width} height={height} className="absolute inset-0">
        {children?.(x, y)}
        <line x1={LEFT} x2={right} y1={foot} y2={foot} className="stroke-ink" />
        {pointed && at !== null && (
          <g>
            <line x1={at} x2={at} y1={TOP} y2={foot} className="stroke-kelp" />
            <text x={at + (turned ? -6 : 6)} y={TOP + 11} textAnchor={turned ? 'end' : 'start'} className="fill-kelp">
              {pointed.text}
            </text>
          </g>
        )}
      </svg>
    </div>
  );
}
