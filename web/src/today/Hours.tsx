import { useComputedColorScheme } from '@mantine/core';
import { BarController, BarElement, CategoryScale, Chart, Legend, LinearScale, Tooltip } from 'chart.js';
import { useEffect, useRef } from 'react';
import type { HourOfToday } from '@vast-knot/core';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Legend, Tooltip);

const series = [
  ['wrote', 'wrote', '--settled'],
  ['nothing', 'nothing to do', '--line'],
  ['failed', 'failed', '--wrong'],
] as const;

/** The hour of the clock at which an hour began, where the reader is. */
const hourText = (at: string) =>
  new Date(at).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });

/** Events of each hour of the last day by what came of them: as bars, and as a table for who cannot see them. */
export function Hours({ hours }: { readonly hours: readonly HourOfToday[] }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const scheme = useComputedColorScheme('light');
  useEffect(() => {
    if (!canvas.current) return undefined;
    const style = getComputedStyle(canvas.current);
    const colour = (name: string) => style.getPropertyValue(name).trim();
    const text = style.color;
    const font = { family: style.fontFamily, size: 12 };
    const chart = new Chart(canvas.current, {
      type: 'bar',
      data: {
        labels: hours.map(({ at }) => hourText(at)),
        datasets: series.map(([of, label, name]) => ({
          label,
          data: hours.map((hour) => hour[of]),
          backgroundColor: colour(name),
          maxBarThickness: 34,
        })),
      },
      options: {
        animation: false,
        maintainAspectRatio: false,
        color: text,
        scales: {
          x: { stacked: true, ticks: { color: text, font }, grid: { display: false } },
          y: {
            stacked: true,
            beginAtZero: true,
            ticks: { color: text, font, precision: 0 },
            grid: { color: colour('--line-soft') },
          },
        },
        plugins: { legend: { position: 'bottom', labels: { color: text, font, boxWidth: 14 } } },
      },
    });
    return () => chart.destroy();
  }, [hours, scheme]);
  return (
    <>
      <div className="today-chart">
        <canvas
          ref={canvas}
          role="img"
          aria-label="Events of each hour of the last day; the table below says the same"
        />
      </div>
      <details>
        <summary className="small">The same as a table</summary>
        <table className="grid boxed">
          <thead>
            <tr>
              <th>Hour</th>
              {series.map(([of, label]) => (
                <th key={of}>{label}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {hours.map((hour) => (
              <tr key={hour.at}>
                <td className="mono">{hourText(hour.at)}</td>
                {series.map(([of]) => (
                  <td key={of} className="mono">
                    {hour[of].toLocaleString('en')}
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
