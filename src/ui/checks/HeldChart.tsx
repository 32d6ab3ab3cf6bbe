"use client";

import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import type { ListedRun } from "@/contract/checks";
import styles from "./Checks.module.css";

/** The share of trials that held, by revision, over all runs that are listed. */
export default function HeldChart({ runs }: { runs: readonly ListedRun[] }) {
  const data = heldByRevision(runs);
  if (data.length < 2) return null;
  return (
    <figure className={styles.chart}>
      <figcaption>Trials that held, by revision, in percent</figcaption>
      <ResponsiveContainer width="100%" height={120}>
        <BarChart data={data} margin={{ top: 4, right: 8, bottom: 0, left: -24 }} accessibilityLayer>
          <CartesianGrid vertical={false} stroke="var(--rule)" />
          <XAxis dataKey="name" stroke="var(--quiet)" tickLine={false} fontSize={11} />
          <YAxis domain={[0, 100]} ticks={[0, 50, 100]} stroke="var(--quiet)" tickLine={false} fontSize={11} />
          <Tooltip
            cursor={{ fill: "var(--shade)" }}
            contentStyle={{
              background: "var(--sheet)",
              border: "1px solid var(--ink)",
              borderRadius: 2,
              color: "var(--ink)",
            }}
            formatter={(value, _name, { payload }) => [`${value}% of ${payload.of} trials`, "held"]}
          />
          <Bar dataKey="share" fill="var(--good)" maxBarSize={28} isAnimationActive={false} />
        </BarChart>
      </ResponsiveContainer>
    </figure>
  );
}

/** What held of each revision as it is, changed candidates left out. */
export function heldByRevision(runs: readonly ListedRun[]): { name: string; share: number; of: number }[] {
  const sums = new Map<number, { held: number; of: number }>();
  for (const { columns } of runs)
    for (const { name, base, revision, held, of } of columns) {
      // a column that is called otherwise was changed from it
      if (name !== String(base) && name !== `revision ${base}`) continue;
      const sum = sums.get(revision) ?? { held: 0, of: 0 };
      sums.set(revision, { held: sum.held + held, of: sum.of + of });
    }
  return [...sums]
    .filter(([, { of }]) => of > 0)
    .sort(([a], [b]) => a - b)
    .map(([revision, { held, of }]) => ({ name: `revision ${revision}`, share: Math.round((held / of) * 100), of }));
}
