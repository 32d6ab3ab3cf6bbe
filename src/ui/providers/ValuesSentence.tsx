import type { ReactNode } from "react";
import type { ChangeProvider, Provider } from "@/contract/providers";
import { valuesIn } from "@/core/provider/address";
import type { WrittenProfile } from "@/core/wire/profile-schema";
import { TextValue } from "../shared/inline/TextValue";

/** The values that a provider's address and profile name, each a word: trial and production differ by these alone. */
export function ValuesSentence({
  provider,
  onChange,
}: {
  provider: Provider;
  onChange: (change: ChangeProvider) => void;
}): ReactNode {
  const declared = (provider.profile as WrittenProfile).values ?? [];
  const names = [...new Set([...declared.map(({ name }) => name), ...valuesIn(provider.address)])];
  if (names.length === 0) return null;
  const keep = (name: string, text: string) => {
    const { [name]: _before, ...others } = provider.values;
    onChange({ values: text === "" ? others : { ...others, [name]: text } });
  };
  return (
    <span data-part="values">
      , with{" "}
      {names.map((name, at) => {
        const of = declared.find((each) => each.name === name);
        return (
          <span key={name}>
            {at > 0 && (at === names.length - 1 ? " and " : ", ")}
            {name}{" "}
            <TextValue
              label={`Value ${name}`}
              value={provider.values[name] ?? ""}
              placeholder={of?.default ?? "not set"}
              onChange={(text) => keep(name, text.trim())}
            />
            {of?.says && <small> ({of.says})</small>}
          </span>
        );
      })}
    </span>
  );
}
