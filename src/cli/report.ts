import type { Run } from "@/contract/checks";
import type { ToldCell } from "./told";

/** A run as a page of its own: one file, which loads nothing and runs nothing. */
export function reportOf(run: Run, told: readonly ToldCell[]): string {
  const title = `Checks of ${run.app}`;
  const head = run.columns.map(
    ({ name, revision }) => `<th scope="col">${escaped(name)}<small>revision ${revision}</small></th>`,
  );
  const rows = run.checks.map((check) => {
    const cells = told.filter((each) => each.check === check);
    return [
      `<tr><th scope="row">${escaped(check.name)}<small>${escaped(check.script)}</small></th>${cells.map(cellOf).join("")}</tr>`,
      ...(cells.some(({ misses }) => misses.length > 0)
        ? [`<tr class="why"><td colspan="${cells.length + 1}">${cells.map(missesOf).join("")}</td></tr>`]
        : []),
    ].join("\n");
  });
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${escaped(title)}</title>
<style>${style}</style>
</head>
<body>
<h1>${escaped(title)}</h1>
<p>${escaped(summaryOf(run, told))}</p>
<p>${new Date(run.startedAt).toISOString().slice(0, 16).replace("T", " ")} UTC · ${run.of} trials${
    run.currency === null ? "" : ` · ${run.price.toFixed(4)} ${escaped(run.currency)}`
  }${run.answers === "called" ? "" : ` · ${escaped(provesWhat)}`}</p>
<table>
<thead><tr><td></td>${head.join("")}</tr></thead>
<tbody>
${rows.join("\n")}
</tbody>
</table>
</body>
</html>
`;
}

/** What a run that was played proves. */
export const provesWhat = "What was recorded is played: how a model answers is proven only by calling it.";

/** A run in a line, for a pull request: "15 of 16 checks pass on draft; broke: keeps it short. Played from recordings." */
export function summaryOf(run: Run, told: readonly ToldCell[]): string {
  const columns = run.columns.map(({ name }) => {
    const cells = told.filter(({ column }) => column === name);
    const named = (outcome: ToldCell["outcome"]) =>
      cells.filter((cell) => cell.outcome === outcome).map(({ check }) => check.name);
    const [held, broke, silent] = [named("held"), named("broke"), named("silent")];
    const but = [
      ...(broke.length > 0 ? [`broke: ${listed(broke)}`] : []),
      ...(silent.length > 0 ? [`silent: ${listed(silent)}`] : []),
    ];
    return [`${held.length} of ${cells.length} checks pass on ${name}`, ...but].join("; ");
  });
  return `${columns.join(". ")}.${run.answers === "called" ? "" : " Played from recordings."}`;
}

/** Names that are listed before the others are counted. */
const most = 5;

function listed(names: readonly string[]): string {
  const more = names.length - most;
  return `${names.slice(0, most).join(", ")}${more > 0 ? ` and ${more} more` : ""}`;
}

function cellOf({ outcome, held, broke, silent }: ToldCell): string {
  const counts =
    held + broke + silent === 1
      ? ""
      : `<small>${held} of ${held + broke}${silent > 0 ? `, ${silent} silent` : ""}</small>`;
  return `<td class="${outcome}">${outcome}${counts}</td>`;
}

function missesOf({ column, misses, check }: ToldCell): string {
  return misses
    .map(
      ({ line, expected, saw, trial }) =>
        `<div><b>${escaped(column)}, trial ${trial}</b> <code>${escaped(check.script)}:${line} ${escaped(expected)}</code> ${escaped(saw)}</div>`,
    )
    .join("");
}

const style = `
:root{color-scheme:light dark}
body{max-width:72rem;margin:2rem auto;padding:0 1rem;font:15px/1.5 system-ui,sans-serif}
h1{font-size:1.3rem}table{border-collapse:collapse;width:100%}
th,td{padding:.3rem .6rem;border-bottom:1px solid light-dark(#d6dee1,#3a474c);text-align:left;vertical-align:top;font-weight:400}
thead th{font-weight:600}small{display:block;color:light-dark(#5b6a70,#9db0b7)}
.held{color:light-dark(#3f6212,#a3d977)}.broke{color:light-dark(#a3241c,#ff9a8f);font-weight:600}.silent{color:light-dark(#5b6a70,#9db0b7)}
.why td{padding-left:1.6rem}code{overflow-wrap:anywhere}`;

const entities: Record<string, string> = { "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" };

function escaped(text: string): string {
  return text.replace(/[&<>"]/g, (sign) => entities[sign] as string);
}
