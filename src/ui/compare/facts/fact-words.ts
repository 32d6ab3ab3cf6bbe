import type { Fact } from "@/core/comparing/facts/facts";

const months = [
  "January",
  "February",
  "March",
  "April",
  "May",
  "June",
  "July",
  "August",
  "September",
  "October",
  "November",
  "December",
];

/** A fact as a row is headed: as it is said, or where writings differ as one writes it here; and what it is about. */
export function factWords({ kind, value, isDenied, said, about }: Fact): { what: string; about: string | undefined } {
  const plain = plainOf({ kind, value, said });
  return {
    what: isDenied ? `not ${plain}` : plain,
    about: about === undefined || plain.includes(about) ? undefined : about,
  };
}

function plainOf({ kind, value, said }: Pick<Fact, "kind" | "value" | "said">): string {
  switch (kind) {
    case "amount": {
      const [currency = "EUR", amount = "0"] = value.split(" ");
      return new Intl.NumberFormat("en-GB", { style: "currency", currency }).format(Number(amount));
    }
    case "time":
      return value.replace(/^0/, "");
    case "date":
      return dateWords(value);
    case "answer":
      return value;
    case "name":
      return inOneLine(said);
    case "figure":
      return figureWords(value, inOneLine(said));
    default:
      return inOneLine(said);
  }
}

function dateWords(value: string): string {
  const [, year, month, day] = /^(\d{4})-(\d\d)(?:-(\d\d))?$/.exec(value) ?? [];
  const named = (at: string | undefined) => months[Number(at) - 1] ?? "";
  if (day !== undefined) return `${Number(day)} ${named(month)}${year ? ` ${year}` : ""}`;
  // without a year the first is the month, with one there may be no day
  if (month !== undefined && year !== undefined) return `${named(month)} ${year}`;
  const [, alone] = /^month (\d+)$/.exec(value) ?? [];
  if (alone) return named(alone);
  const [, monthOf, dayOf] = /^(\d\d)-(\d\d)$/.exec(value) ?? [];
  if (monthOf && dayOf) return `${Number(dayOf)} ${named(monthOf)}`;
  const [, of] = /^year (\d+)$/.exec(value) ?? [];
  return of ?? `${value.charAt(0).toUpperCase()}${value.slice(1)}`;
}

/** A figure as it is said; where that leaves out what it counts, since that was said before, with that. */
function figureWords(value: string, said: string): string {
  const unit = value.replace(/^[\d.]+ ?/, "");
  const isBare = /^[\p{L}\d.,-]+$/u.test(said) && unit !== "" && !said.toLowerCase().includes(unit.slice(0, 3));
  if (isBare) return `${said.toLowerCase()} ${/^[a-z]{4,}$/.test(unit) && !value.startsWith("1 ") ? `${unit}s` : unit}`;
  return said.replace(/^\p{Lu}(?=\p{Ll}+ )/u, (first) => first.toLowerCase());
}

function inOneLine(said: string): string {
  return said.replace(/[*_`\s]+/g, " ").trim();
}
