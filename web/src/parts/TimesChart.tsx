import { useComputedColorScheme } from '@mantine/core';
import { BarController, BarElement, CategoryScale, Chart, Legend, LinearScale, Tooltip } from 'chart.js';
import { useEffect, useRef, useState, type PointerEvent } from 'react';
import type { Stretch } from '@vast-knot/core';
import { dateFormat, digits } from './habits';
import './times.css';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Legend, Tooltip);

const series = [
  ['wrote', 'wrote', '--settled'],
  ['nothing', 'nothing to do', '--line'],
  ['failed', 'failed', '--wrong'],
  ['waiting', 'waiting', '--will'],
] as const;

const dayMs = 86_400_000;

/** Bars that are being chosen, from the first that was pressed, and where they are drawn. */
interface Drag {
  readonly bars: readonly [number, number];
  readonly left: number;
  readonly width: number;
}

interface TimesChartProps {
  readonly stretches: readonly Stretch[];
  /** How long each is, in milliseconds. */
  readonly step: number;
  /** What the bars are, as a name for those who cannot see them. */
  readonly label: string;
  /** Called with a stretch of time that was chosen, from a bar to a bar; ISO 8601, without its end. */
  readonly choose?: (from: string, to: string) => void;
}

/** When something came, by what came of it: as bars, and as a table for who cannot see them. A stretch can be chosen in both. */
export function TimesChart({ stretches, step, label, choose }: TimesChartProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const shown = useRef<Chart>(undefined);
  const scheme = useComputedColorScheme('light');
  const [drag, setDrag] = useState<Drag>();
  const [first, last] = [stretches[0], stretches.at(-1)];
  const spansDays = !first || !last || Date.parse(last.at) - Date.parse(first.at) >= dayMs;
  const text = (at: string) => stretchText(at, step, spansDays);
  useEffect(() => {
    if (!canvas.current) return undefined;
    const style = getComputedStyle(canvas.current);
    const colour = (name: string) => style.getPropertyValue(name).trim();
    const ink = style.color;
    const font = { family: style.fontFamily, size: 12 };
    const chart = new Chart(canvas.current, {
      type: 'bar',
      data: {
        labels: stretches.map(({ at }) => stretchText(at, step, spansDays)),
        datasets: series.map(([of, name, hue]) => ({
          label: name,
          data: stretches.map((each) => each[of]),
          backgroundColor: colour(hue),
          maxBarThickness: 34,
        })),
      },
      options: {
        animation: false,
        maintainAspectRatio: false,
        color: ink,
        scales: {
          x: { stacked: true, ticks: { color: ink, font, maxRotation: 0 }, grid: { display: false } },
          y: {
            stacked: true,
            beginAtZero: true,
            ticks: { color: ink, font, precision: 0, maxTicksLimit: 5 },
            grid: { color: colour('--line-soft') },
          },
        },
        plugins: { legend: { position: 'bottom', labels: { color: ink, font, boxWidth: 14 } } },
      },
    });
    shown.current = chart;
    return () => chart.destroy();
  }, [stretches, step, spansDays, scheme]);

  const chooseBars = ([one, other]: readonly [number, number]) => {
    const from = stretches[Math.min(one, other)];
    const to = stretches[Math.max(one, other)];
    if (from && to) choose?.(from.at, new Date(Date.parse(to.at) + step).toISOString());
  };
  const barAt = (event: PointerEvent) => {
    const { left } = event.currentTarget.getBoundingClientRect();
    const place = shown.current?.scales['x']?.getValueForPixel(event.clientX - left) ?? 0;
    return Math.max(0, Math.min(stretches.length - 1, Math.round(place)));
  };
  const draggedTo = (start: number, event: PointerEvent): Drag => {
    const bars = [start, barAt(event)] as const;
    const { left = 0, width = 0 } = shown.current?.scales['x'] ?? {};
    const each = width / Math.max(1, stretches.length);
    const [from, to] = [Math.min(...bars), Math.max(...bars)];
    return { bars, left: left + from * each, width: (to - from + 1) * each };
  };
  const dragging = choose && {
    onPointerDown: (event: PointerEvent) => setDrag(draggedTo(barAt(event), event)),
    onPointerMove: (event: PointerEvent) => drag && setDrag(draggedTo(drag.bars[0], event)),
    onPointerUp: (event: PointerEvent) => {
      if (drag) chooseBars(draggedTo(drag.bars[0], event).bars);
      setDrag(undefined);
    },
    onPointerLeave: () => setDrag(undefined),
  };
  return (
    <>
      <div className="times-chart" {...dragging}>
        <canvas ref={canvas} role="img" aria-label={`${label}; the table below says the same`} />
        {drag && <div className="times-marked" style={{ left: drag.left, width: drag.width }} aria-hidden />}
      </div>
      <details>
        <summary className="small">The same as a table</summary>
        <table className="grid boxed">
          <thead>
            <tr>
              <th>From</th>
              {series.map(([of, name]) => (
                <th key={of}>{name}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {stretches.map((each, at) => (
              <tr key={each.at}>
                <td className="mono">
                  {choose ? (
                    <button type="button" className="plain mono" onClick={() => chooseBars([at, at])}>
                      {text(each.at)}
                    </button>
                  ) : (
                    text(each.at)
                  )}
                </td>
                {series.map(([of]) => (
                  <td key={of} className="mono">
                    {digits(each[of])}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </>
  );
}

/** When a stretch began, where the reader is: as much of it as tells it from the others. */
function stretchText(at: string, step: number, spansDays: boolean): string {
  const date = new Date(at);
  const day = dateFormat({ day: 'numeric', month: 'short' }).format(date);
  if (step >= 28 * dayMs) return dateFormat({ month: 'short', year: 'numeric' }).format(date);
  if (step >= dayMs) return day;
  const seconds = step < 60_000 && ({ second: '2-digit' } as const);
  const time = dateFormat({ hour: '2-digit', minute: '2-digit', ...seconds }).format(date);
  return spansDays ? `${day}, ${time}` : time;
}
