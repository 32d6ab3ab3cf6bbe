import type { OwnSetting, OwnValue } from "@/core/wire/own-settings";
import { ChoiceValue } from "../inline/ChoiceValue";
import { NumberValue } from "../inline/NumberValue";
import { TextValue } from "../inline/TextValue";

/** What stands for a setting that is left to the provider. */
const left = "its own way";

/** A setting that an API has of its own, edited where it stands in the sentence. */
export function OwnSettingValue({
  setting: { says, type, choices = [], from, to },
  value,
  onChange,
}: {
  setting: OwnSetting;
  value: OwnValue | undefined;
  onChange: (value: OwnValue | undefined) => void;
}) {
  const label = `${says.charAt(0).toUpperCase()}${says.slice(1)}`;
  switch (type) {
    case "number":
      return (
        <NumberValue
          label={label}
          value={typeof value === "number" ? value : undefined}
          min={from ?? Number.MIN_SAFE_INTEGER}
          max={to ?? Number.MAX_SAFE_INTEGER}
          none={{ said: left }}
          onChange={onChange}
        />
      );
    case "text":
      return (
        <TextValue
          label={label}
          value={typeof value === "string" ? value : ""}
          placeholder={left}
          onChange={(text) => onChange(text.trim() === "" ? undefined : text)}
        />
      );
    case "switch":
    case "choice": {
      const all = type === "switch" ? ["yes", "no"] : choices;
      const chosen = typeof value === "boolean" ? (value ? "yes" : "no") : value;
      return (
        <ChoiceValue
          label={label}
          value={typeof chosen === "string" && all.includes(chosen) ? chosen : ""}
          options={[{ value: "", label: left }, ...all.map((each) => ({ value: each, label: each }))]}
          onChange={(next) => onChange(next === "" ? undefined : type === "switch" ? next === "yes" : next)}
        />
      );
    }
  }
}
