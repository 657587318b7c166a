import { ParallelChart, ScatterChart } from "echarts/charts";
import { GridComponent, MarkLineComponent, ParallelComponent, TooltipComponent } from "echarts/components";
import { type ECharts, init, use as uses } from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import { useEffect, useRef } from "react";
import { type System, unitOf, type written } from "../units/quantities";
import {
  axisOf,
  fieldOf,
  figureOfMetric,
  inProject,
  type Metric,
  type Study,
  toldOf,
  type Variant,
  WORDS,
} from "./study";

uses([ScatterChart, ParallelChart, GridComponent, ParallelComponent, TooltipComponent, MarkLineComponent, SVGRenderer]);

const COLOURS: Record<string, string> = {
  pass: "#3f7247",
  fail: "#a3312b",
  uncovered: "#7d5609",
  unchecked: "#55606a",
};
/** Verdicts are told apart by their shapes as well. */
const SHAPES: Record<string, string> = {
  pass: "circle",
  fail: "path://M-1 -1L1 1M-1 1L1 -1",
  uncovered: "diamond",
  unchecked: "rect",
};
const FONT = { fontFamily: "IBM Plex Sans, sans-serif", fontSize: 11, color: "#55606a" };
const LINES = { lineStyle: { color: "#dcd5c8" } };

type Option = Parameters<ECharts["setOption"]>[0];

/** A chart in the room that there is; a click on one of its marks picks the variant of that number. */
function Chart(props: { option: Option; label: string; pick: (number: number) => void }) {
  const { option, label, pick } = props;
  const room = useRef<HTMLDivElement>(null);
  const chart = useRef<ECharts | null>(null);
  useEffect(() => {
    const element = room.current;
    if (!element) return;
    const made = init(element, null, { renderer: "svg" });
    chart.current = made;
    const watch = new ResizeObserver(() => made.resize());
    watch.observe(element);
    return () => {
      watch.disconnect();
      made.dispose();
      chart.current = null;
    };
  }, []);
  useEffect(() => {
    chart.current?.setOption(option, { notMerge: true });
  }, [option]);
  useEffect(() => {
    const made = chart.current;
    const hear = (event: { name?: string }) => {
      const number = Number(event.name);
      if (Number.isInteger(number) && number > 0) pick(number);
    };
    made?.on("click", hear);
    return () => {
      if (!made?.isDisposed()) made?.off("click", hear);
    };
  }, [pick]);
  return <div className="chart" ref={room} role="img" aria-label={label} />;
}

const known = (study: Study) =>
  study.variants.filter((v) => v.found && v.found.verdict in COLOURS) as (Variant & {
    found: NonNullable<Variant["found"]>;
  })[];

/** Two metrics against each other; variants that no other one beats are joined by a line. */
export function Scatter(props: {
  study: Study;
  system: System;
  x: Metric;
  y: Metric;
  front: Set<number>;
  picked: number | null;
  pick: (number: number) => void;
}) {
  const { study, system, x, y, front, picked, pick } = props;
  const points = known(study).flatMap((v) => {
    const [a, b] = [x.of(v.found), y.of(v.found)];
    return a === null || b === null ? [] : [{ v, at: [inProject(a, x, system), inProject(b, y, system)] }];
  });
  const joined = points.filter((p) => front.has(p.v.number)).sort((p, q) => (p.at[0] ?? 0) - (q.at[0] ?? 0));
  const axis = (m: Metric) => ({
    type: "value" as const,
    name: axisOf(m, system),
    nameLocation: "middle" as const,
    scale: true,
    nameTextStyle: FONT,
    axisLabel: FONT,
    splitLine: LINES,
    axisLine: { show: true, lineStyle: { color: "#c9c0b0" } },
  });
  const limit = (m: Metric) => !m.unit && points.some((p) => ((m === x ? p.at[0] : p.at[1]) as number) > 0.7);
  const lines = [...(limit(y) ? [{ yAxis: 1 }] : []), ...(limit(x) ? [{ xAxis: 1 }] : [])];
  const option: Option = {
    animation: false,
    grid: { left: 62, right: 16, top: 12, bottom: 40 },
    xAxis: { ...axis(x), nameGap: 24 },
    yAxis: { ...axis(y), nameGap: 46 },
    tooltip: {
      trigger: "item",
      textStyle: { ...FONT, color: "#1e2a35" },
      formatter: (p: unknown) => {
        const found = points.find((q) => String(q.v.number) === (p as { name: string }).name);
        if (!found) return "";
        const { v } = found;
        const figures = [x, y].map((m) => `${axisOf(m, system)} ${figureOfMetric(m.of(v.found) as number, m, system)}`);
        return escaped([`${v.number}: ${toldOf(v, system)}`, WORDS[v.found.verdict], ...figures].join("\n"));
      },
    },
    series: [
      {
        type: "scatter",
        data: points.map(({ v, at }) => ({
          name: String(v.number),
          value: at,
          symbol: SHAPES[v.found.verdict] as string,
          symbolSize: v.number === picked ? 15 : 9,
          itemStyle: {
            color: v.found.verdict === "uncovered" ? "#fcfaf6" : (COLOURS[v.found.verdict] as string),
            borderColor: v.number === picked ? "#b4532a" : (COLOURS[v.found.verdict] as string),
            borderWidth: v.number === picked ? 3 : 1.5,
          },
        })),
        markLine: {
          silent: true,
          symbol: "none",
          label: { show: false },
          lineStyle: { color: "#1e2a35", type: "dashed" },
          data: [
            ...lines,
            ...joined
              .slice(1)
              .map((p, k) => [
                { coord: (joined[k] as typeof p).at, lineStyle: { color: "#b4532a", type: "solid", width: 1.5 } },
                { coord: p.at },
              ]),
          ] as never,
        },
      },
    ],
  };
  return <Chart option={option} label={`${axisOf(x, system)} against ${axisOf(y, system)}`} pick={pick} />;
}

const escaped = (text: string) =>
  text.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;").replaceAll("\n", "<br>");

/** Every variant as a line through all that varies and all that it is judged by; a stretch drawn on an axis picks those through it. */
export function Parallel(props: {
  study: Study;
  system: System;
  metrics: Metric[];
  picked: number | null;
  pick: (number: number) => void;
}) {
  const { study, system, metrics, picked, pick } = props;
  const fields = study.vary
    .filter((v) => v.values.every((value) => typeof value === "number"))
    .map((v) => fieldOf(v.path));
  const variants = known(study);
  const option: Option = {
    animation: false,
    parallel: { left: 40, right: 60, top: 44, bottom: 16 },
    parallelAxis: [
      ...fields.map((f, k) => ({
        dim: k,
        name: `${f.name.replace(", all ", "\n").replace(", ", "\n")} ${unitOf(f.quantity, system).unit}`.trim(),
        scale: true,
      })),
      ...metrics.map((m, k) => ({ dim: fields.length + k, name: axisOf(m, system), scale: true })),
    ].map((a) => ({
      ...a,
      nameTextStyle: { ...FONT, lineHeight: 13 },
      axisLabel: { ...FONT, backgroundColor: "rgba(252, 250, 246, 0.85)" },
      axisLine: { lineStyle: { color: "#6f7880" } },
    })),
    series: [
      {
        type: "parallel",
        emphasis: { lineStyle: { width: 3 } },
        inactiveOpacity: 0.08,
        activeOpacity: 1,
        data: [...variants]
          .sort((a, b) => Number(a.number === picked) - Number(b.number === picked))
          .map((v) => ({
            name: String(v.number),
            value: [
              ...fields.map((f) => numberOf(v.values[f.path], f.quantity, system)),
              ...metrics.map((m) => {
                const value = m.of(v.found);
                return value === null ? "-" : inProject(value, m, system);
              }),
            ],
            lineStyle: {
              color: v.number === picked ? "#b4532a" : COLOURS[v.found.verdict],
              width: v.number === picked ? 3.5 : 1.3,
              type: v.found.verdict === "pass" ? "solid" : "dashed",
              opacity: v.number === picked ? 1 : 0.75,
            },
          })) as never,
      },
    ],
  };
  return <Chart option={option} label="Variants through all axes" pick={pick} />;
}

const numberOf = (value: unknown, quantity: Parameters<typeof written>[1], system: System) =>
  typeof value === "number" ? value * unitOf(quantity, system).factor : "-";
