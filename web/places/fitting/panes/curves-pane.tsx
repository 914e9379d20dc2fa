'use client';

import { useQuery } from '@tanstack/react-query';
import { CURVE_LABELS, CURVES, type CurveKind } from '@velvet-reel/motion';
import type { ECharts } from 'echarts/core';
import { useEffect, useRef, useState } from 'react';
import { solver } from '@/client/solver';
import { seek } from '@/parts/lanes/axis';
import type { Curves, FitWish } from '@/solver/solve-fit';
import type { Clock } from '@/stage/clock';
import { useThemeVersion } from '@/stage/use-theme';
import { Select } from '@/ui/field';
import { curvesPane as texts } from '../texts';
import { wishKey } from '../wish-key';

interface CurvesPaneProps {
  clock: Clock;
  fps: number;
  wish: FitWish | undefined;
  joints: readonly string[];
  joint: string;
  onJoint: (joint: string) => void;
}

/** One joint over time, result against source, in numbers and as a curve. */
export function CurvesPane({ clock, fps, wish, joints, joint, onJoint }: CurvesPaneProps) {
  const [kind, setKind] = useState<CurveKind>('turn');
  const { data, error } = useQuery({
    queryKey: ['curves', wishKey(wish), joint, kind],
    queryFn: () => solver().curves(wish!, joint, kind),
    enabled: wish !== undefined && joint !== '',
    gcTime: 10_000,
    placeholderData: (before) => before,
  });
  const { label, unit } = CURVE_LABELS[kind];
  return (
    <div className="flex h-full min-h-44 flex-col px-4 pb-2">
      <div className="mb-1 flex flex-wrap items-center gap-2 text-[12.5px]">
        <Select
          label={texts.joint}
          value={joint}
          options={joints.map((j) => ({ value: j, label: j }))}
          onChange={onJoint}
          className="max-w-44 py-0!"
        />
        <Select
          label={texts.whatIsDrawn}
          value={kind}
          options={CURVES.map((c) => ({ value: c, label: `${CURVE_LABELS[c].label}, ${CURVE_LABELS[c].unit}` }))}
          onChange={setKind}
          className="py-0!"
        />
        {data && <Figures curves={data} unit={unit} clock={clock} />}
      </div>
      {error && <p className="text-raspberry">{error.message}</p>}
      {data === null && <p className="text-muted">{texts.theTargetHasNo}</p>}
      {data && <Chart curves={data} name={`${joint}: ${label}`} unit={unit} fps={fps} clock={clock} />}
    </div>
  );
}

/** What both say at this frame, written past React. */
function Figures({ curves, unit, clock }: { curves: Curves; unit: string; clock: Clock }) {
  const at = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    const show = (): void => {
      if (!at.current) return;
      const f = clock.frame;
      const r = curves.result[f];
      const s = curves.source?.[f];
      at.current.textContent =
        texts.result(r?.toFixed(1) ?? '–', unit) +
        (s === undefined ? ' · no partner in the source' : ` · ${curves.partner} ${s.toFixed(1)} ${unit}`);
    };
    show();
    return clock.onTick(show);
  }, [curves, unit, clock]);
  return <span ref={at} className="text-muted" />;
}

function Chart({
  curves,
  name,
  unit,
  fps,
  clock,
}: {
  curves: Curves;
  name: string;
  unit: string;
  fps: number;
  clock: Clock;
}) {
  const box = useRef<HTMLDivElement>(null);
  const needle = useRef<HTMLDivElement>(null);
  const [chart, setChart] = useState<ECharts | null>(null);
  const theme = useThemeVersion();
  useEffect(() => {
    let gone = false;
    let made: ECharts | undefined;
    let watch: ResizeObserver | undefined;
    void import('./echarts').then(({ newChart }) => {
      if (gone || !box.current) return;
      made = newChart(box.current);
      watch = new ResizeObserver(() => made?.resize());
      watch.observe(box.current);
      made.getZr().on('click', (e: { offsetX: number }) => {
        const x = made!.convertFromPixel({ xAxisIndex: 0 }, e.offsetX) as unknown as number;
        seek(clock, Math.round(x));
      });
      setChart(made);
    });
    return () => {
      gone = true;
      watch?.disconnect();
      made?.dispose();
    };
  }, [clock]);
  useEffect(() => {
    void theme;
    if (!chart) return;
    const style = getComputedStyle(document.documentElement);
    const color = (v: string): string => style.getPropertyValue(v).trim();
    const points = (values: Float32Array): [number, number][] => Array.from(values, (y, f) => [f, y]);
    const axis = { axisLine: { lineStyle: { color: color('--line') } }, axisLabel: { color: color('--muted') } };
    chart.setOption(
      {
        animation: false,
        grid: { left: 44, right: 14, top: 24, bottom: 22 },
        legend: { top: 0, right: 8, textStyle: { color: color('--muted') }, data: ['result', 'source'] },
        tooltip: {
          trigger: 'axis',
          backgroundColor: color('--raised'),
          borderColor: color('--line'),
          textStyle: { color: color('--ink') },
          formatter: (rows: { seriesName: string; data: [number, number] }[]) =>
            `frame ${(rows[0]?.data[0] ?? 0) + 1}, ${((rows[0]?.data[0] ?? 0) / fps).toFixed(2)} s<br>${rows
              .map((r) => `${r.seriesName} ${r.data[1].toFixed(1)} ${unit}`)
              .join('<br>')}`,
        },
        xAxis: { type: 'value', min: 0, max: curves.result.length - 1, splitLine: { show: false }, ...axis },
        yAxis: {
          type: 'value',
          scale: true,
          splitLine: { lineStyle: { color: color('--line'), opacity: 0.5 } },
          ...axis,
        },
        series: [
          {
            name: 'source',
            type: 'line',
            showSymbol: false,
            data: curves.source ? points(curves.source) : [],
            lineStyle: { color: color('--muted'), width: 1.5, type: 'dashed' },
            itemStyle: { color: color('--muted') },
          },
          {
            name: 'result',
            type: 'line',
            showSymbol: false,
            data: points(curves.result),
            lineStyle: { color: color('--brass'), width: 2 },
            itemStyle: { color: color('--brass') },
          },
        ],
      },
      { notMerge: true },
    );
    const show = (): void => {
      if (!needle.current) return;
      const x = chart.convertToPixel({ xAxisIndex: 0 }, clock.frame) as unknown as number;
      needle.current.style.left = `${x}px`;
    };
    show();
    return clock.onTick(show);
  }, [chart, curves, unit, fps, theme, clock]);
  return (
    <div className="relative min-h-36 flex-1" role="img" aria-label={name}>
      <div ref={box} className="absolute inset-0" />
      <div ref={needle} className="pointer-events-none absolute top-6 bottom-5 w-px bg-brass" />
    </div>
  );
}
