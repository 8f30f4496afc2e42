import { useEffect, useRef, useState } from 'react';
import type { Data, Layout } from 'plotly.js-basic-dist-min';

// A file of its own, under its own name: a handheld does not take it along.
const loaded = import('plotly.js-basic-dist-min').then((plotly) => plotly.default);

/** What is drawn: for each name a bar, for each series a part of it. `unit` is what the numbers count, in the plural. */
export type BarsOf = {
  readonly names: readonly string[];
  readonly series: readonly { readonly name: string; readonly values: readonly number[]; readonly look?: 'wrong' | 'next' }[];
  readonly unit: string;
};

// A part is told by its pattern as well as by its tone: nobody has to see colours.
const TONES = ['ink', 'settled', 'soft', 'wrong', 'next-deep', 'line'] as const;
const PATTERNS = ['', '/', '.', '\\', 'x', '-', '|', '+'] as const;
const ROW = 34; // pixels

const toneOf = (name: string): string => getComputedStyle(document.documentElement).getPropertyValue(`--color-${name}`).trim();

function drawn({ names, series, unit }: BarsOf, lying: boolean): { data: Data[]; layout: Partial<Layout> } {
  const line = { color: toneOf('ink'), width: 1 };
  const data = series.map(({ name, values, look }, n): Data => {
    const color = toneOf(look ?? TONES[n % TONES.length] ?? 'ink');
    const shape = PATTERNS[n % PATTERNS.length] ?? '';
    return {
      type: 'bar',
      name,
      orientation: lying ? 'h' : 'v',
      x: lying ? [...values] : [...names],
      y: lying ? [...names] : [...values],
      marker: { color, line, pattern: { shape, fgcolor: toneOf('sheet'), fillmode: 'overlay', size: 6 } },
      hovertemplate: lying ? `%{y}: %{x} ${unit}, ${name}<extra></extra>` : `%{x}: %{y} ${unit}, ${name}<extra></extra>`,
    };
  });
  const axis = { gridcolor: toneOf('line'), linecolor: toneOf('ink'), zerolinecolor: toneOf('ink'), automargin: true };
  return {
    data,
    layout: {
      barmode: 'stack',
      height: lying ? 90 + ROW * names.length : 260,
      margin: { l: 10, r: 10, t: lying ? 10 : 40, b: 30 },
      paper_bgcolor: 'transparent',
      plot_bgcolor: 'transparent',
      font: { family: getComputedStyle(document.body).fontFamily, color: toneOf('ink'), size: 14 },
      xaxis: { ...axis, ...(lying ? { rangemode: 'tozero', tickformat: ',d' } : { type: 'category' }) },
      yaxis: { ...axis, ...(lying ? { autorange: 'reversed', type: 'category' } : { rangemode: 'tozero', tickformat: ',d' }) },
      showlegend: series.length > 1,
      legend: { orientation: 'h', traceorder: 'normal', ...(lying ? { y: -0.15, yanchor: 'top' } : { y: 1.02, yanchor: 'bottom' }) },
    },
  };
}

/** Draws bars, lying or standing. `label` says what they show; the numbers themselves stand in a table beside it. `onPick` is told the name
 *  of a bar that is pressed. */
export function Bars({
  of,
  label,
  lying = false,
  onPick,
}: {
  of: BarsOf;
  label: string;
  lying?: boolean;
  onPick?: (name: string) => void;
}) {
  const place = useRef<HTMLDivElement>(null);
  const dark = useDark();
  useEffect(() => {
    const div = place.current;
    if (!div) return;
    const { data, layout } = drawn(of, lying);
    let isLeft = false;
    void loaded.then(async (Plotly) => {
      if (isLeft) return;
      const plot = await Plotly.react(div, data, layout, { displayModeBar: false });
      plot.removeAllListeners('plotly_click');
      plot.on('plotly_click', ({ points }) => {
        const [point] = points;
        if (point) onPick?.(String(lying ? point.y : point.x));
      });
    });
    return () => {
      isLeft = true;
    };
  }, [of, lying, onPick, dark]);
  useEffect(() => {
    const div = place.current;
    // Its place may change without the window: larger letters, a panel beside it.
    const watch = new ResizeObserver(() => {
      if (div) void loaded.then((Plotly) => div.querySelector('svg') && Plotly.Plots.resize(div));
    });
    if (div) watch.observe(div);
    return () => {
      watch.disconnect();
      if (div) void loaded.then((Plotly) => Plotly.purge(div));
    };
  }, []);
  return <div ref={place} role="img" aria-label={label} className="w-full overflow-hidden" />;
}

function useDark(): boolean {
  const [dark, setDark] = useState(() => matchMedia('(prefers-color-scheme: dark)').matches);
  useEffect(() => {
    const asked = matchMedia('(prefers-color-scheme: dark)');
    const on = (): void => setDark(asked.matches);
    asked.addEventListener('change', on);
    return () => asked.removeEventListener('change', on);
  }, []);
  return dark;
}
