"use client";

import {
  Bar,
  CartesianGrid,
  ComposedChart,
  ErrorBar,
  ResponsiveContainer,
  Scatter,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";
import type { MessageSet } from "@/contract/sets";
import type { Measure } from "@/core/comparing/sets/answer";
import { count, duration, price } from "../../shared/format";
import { spreadsOf } from "./answered";
import styles from "./sets.module.css";

const shown: readonly [measure: Measure, title: string][] = [
  ["firstText", "First text"],
  ["speed", "Tokens a second"],
  ["price", "Price of a reply"],
  ["length", "Tokens of a reply"],
];

/** How the figures of each lane spread: the middle half as a bar, all of them as a line, the median as a stroke in it. */
export default function SetSpread({ set, names }: { set: MessageSet; names: readonly string[] }) {
  return (
    <div className={styles.spread}>
      {shown.map(([measure, title]) => (
        <SpreadChart key={measure} {...{ set, names, measure, title }} />
      ))}
    </div>
  );
}

function SpreadChart({
  set,
  names,
  measure,
  title,
}: {
  set: MessageSet;
  names: readonly string[];
  measure: Measure;
  title: string;
}) {
  const said = (value: number) => written(value, measure, set.currency);
  const data = spreadsOf(set, measure).flatMap((spread, at) =>
    spread
      ? [
          {
            name: names[at] ?? "",
            half: [spread.lower, spread.upper] as const,
            reach: [spread.median - spread.least, spread.most - spread.median] as const,
            ...spread,
          },
        ]
      : [],
  );
  return (
    <figure>
      <figcaption>{title}</figcaption>
      {data.length === 0 ? (
        <p>not known of any lane</p>
      ) : (
        <ResponsiveContainer width="100%" height={28 + 26 * data.length}>
          <ComposedChart
            layout="vertical"
            data={data}
            margin={{ top: 2, right: 14, bottom: 0, left: 0 }}
            accessibilityLayer
          >
            <CartesianGrid horizontal={false} stroke="var(--rule)" />
            <XAxis
              type="number"
              domain={[0, "auto"]}
              stroke="var(--quiet)"
              tickLine={false}
              fontSize={11}
              tickCount={3}
              tickFormatter={said}
            />
            <YAxis type="category" dataKey="name" width={84} stroke="var(--quiet)" tickLine={false} fontSize={11} />
            <Tooltip
              cursor={{ fill: "var(--shade)" }}
              isAnimationActive={false}
              content={({ payload }) => {
                const of = payload?.[0]?.payload as (typeof data)[0] | undefined;
                return of ? (
                  <div className={styles.told}>
                    {of.name}: median {said(of.median)}, half of them {said(of.lower)} to {said(of.upper)}, all{" "}
                    {said(of.least)} to {said(of.most)}
                  </div>
                ) : null;
              }}
            />
            <Bar dataKey="half" fill="var(--rule)" barSize={12} isAnimationActive={false} />
            <Scatter dataKey="median" shape={<Median />} isAnimationActive={false}>
              <ErrorBar dataKey="reach" direction="x" width={5} stroke="var(--quiet)" />
            </Scatter>
          </ComposedChart>
        </ResponsiveContainer>
      )}
      <ul className="unseen">
        {data.map(({ name, median, lower, upper }) => (
          <li key={name}>
            {name}: median {said(median)}, half of them from {said(lower)} to {said(upper)}
          </li>
        ))}
      </ul>
    </figure>
  );
}

function Median({ cx = 0, cy = 0 }: { cx?: number; cy?: number }) {
  return <rect x={cx - 1.5} y={cy - 8} width={3} height={16} fill="var(--ink)" />;
}

function written(value: number, measure: Measure, currency: string): string {
  switch (measure) {
    case "firstText":
      return duration(value);
    case "price":
      return price(value, currency);
    default:
      return count(value);
  }
}
