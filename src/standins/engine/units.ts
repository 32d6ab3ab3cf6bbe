/** A unit: what it measures, how many of the base unit one is, and how it is called. */
interface Unit {
  of: string;
  factor: number;
  one: string;
  many: string;
  names: RegExp;
}

const unit = (of: string, factor: number, one: string, many: string, names: string): Unit => ({
  of,
  factor,
  one,
  many,
  names: new RegExp(`^(?:${names})$`, "i"),
});

const units: readonly Unit[] = [
  unit("length", 0.001, "millimetre", "millimetres", "mm|millimet(?:re|er)s?"),
  unit("length", 0.01, "centimetre", "centimetres", "cm|centimet(?:re|er)s?"),
  unit("length", 1, "metre", "metres", "m|met(?:re|er)s?"),
  unit("length", 1000, "kilometre", "kilometres", "km|kilomet(?:re|er)s?|kms"),
  unit("length", 0.0254, "inch", "inches", "in|inch(?:es)?"),
  unit("length", 0.3048, "foot", "feet", "ft|foot|feet"),
  unit("length", 0.9144, "yard", "yards", "yd|yards?"),
  unit("length", 1609.344, "mile", "miles", "mi|miles?"),
  unit("length", 1852, "nautical mile", "nautical miles", "nautical miles?|nm"),
  unit("weight", 0.001, "gram", "grams", "g|gram(?:me)?s?"),
  unit("weight", 1, "kilogram", "kilograms", "kg|kilo(?:gram(?:me)?)?s?"),
  unit("weight", 1000, "tonne", "tonnes", "t|tonnes?"),
  unit("weight", 0.45359237, "pound", "pounds", "lb|lbs|pounds?"),
  unit("weight", 0.028349523125, "ounce", "ounces", "oz|ounces?"),
  unit("volume", 0.001, "millilitre", "millilitres", "ml|millilit(?:re|er)s?"),
  unit("volume", 1, "litre", "litres", "l|lit(?:re|er)s?"),
  unit("volume", 3.785411784, "US gallon", "US gallons", "gallons?"),
  unit("volume", 0.2365882365, "cup", "cups", "cups?"),
  unit("time", 1, "second", "seconds", "s|sec|seconds?"),
  unit("time", 60, "minute", "minutes", "min|minutes?"),
  unit("time", 3600, "hour", "hours", "h|hours?"),
  unit("time", 86_400, "day", "days", "days?"),
  unit("time", 604_800, "week", "weeks", "weeks?"),
  unit("speed", 1, "metre per second", "metres per second", "m/s|met(?:re|er)s? (?:per|a) second"),
  unit("speed", 1 / 3.6, "kilometre per hour", "kilometres per hour", "km/h|kmh|kilomet(?:re|er)s? (?:per|an) hour"),
  unit("speed", 0.44704, "mile per hour", "miles per hour", "mph|miles? (?:per|an) hour"),
  unit("speed", 1852 / 3600, "knot", "knots", "knots?|kn"),
  unit("temperature", 1, "degree Celsius", "degrees Celsius", "°?c|celsius|degrees? (?:c|celsius)|centigrade"),
  unit("temperature", 1, "degree Fahrenheit", "degrees Fahrenheit", "°?f|fahrenheit|degrees? (?:f|fahrenheit)"),
];

/** The name of a unit as it may stand in a text, for other patterns. */
export const unitWord = String.raw`(?:nautical miles?|degrees? (?:celsius|fahrenheit|c|f)|(?:kilo)?met(?:re|er)s? (?:per|an?) (?:hour|second)|miles? (?:per|an) hour|km/h|m/s|°\s?[cf]|[a-z]+)`;

/** The unit of a name. */
export function unitOf(name: string): Unit | undefined {
  return units.find(({ names }) => names.test(name.trim()));
}

/** A number of one unit in another, with the step to it; undefined where the two measure different things. */
export function converted(value: number, from: Unit, to: Unit): { value: number; step: string } | undefined {
  if (from.of !== to.of) return undefined;
  if (from.of === "temperature") return ofTemperature(value, from, to);
  const factor = from.factor / to.factor;
  return {
    value: value * factor,
    step: `one ${from.one} is ${written(factor)} ${to.many}, and ${written(value)} × ${written(factor)} = ${written(value * factor)}`,
  };
}

function ofTemperature(value: number, from: Unit, to: Unit): { value: number; step: string } {
  if (from === to) return { value, step: "it is the same scale" };
  if (/Celsius/.test(from.one)) {
    const result = (value * 9) / 5 + 32;
    return { value: result, step: `${written(value)} × 9 ÷ 5 + 32 = ${written(result)}` };
  }
  const result = ((value - 32) * 5) / 9;
  return { value: result, step: `(${written(value)} − 32) × 5 ÷ 9 = ${written(result)}` };
}

/** A number of a unit in words. */
export function measured(value: number, { one, many }: Unit): string {
  return `${written(value)} ${value === 1 ? one : many}`;
}

/** A number as it is written: at most four significant decimals, none where it is whole. */
export function written(value: number): string {
  if (Number.isInteger(value)) return String(value);
  const digits = Math.abs(value) >= 100 ? 1 : Math.abs(value) >= 1 ? 2 : 4;
  return String(Number(value.toFixed(digits)));
}
