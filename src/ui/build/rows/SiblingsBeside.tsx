import { useState } from "react";
import type { LineMessage } from "@/contract/conversations";
import { Beside } from "../../shared/beside/Beside";
import { ChoiceValue } from "../../shared/inline/ChoiceValue";

/** Two of the takes or lines in the place of a message, side by side: the one that is shown and one to choose. */
export function SiblingsBeside({
  message,
  conversation,
  onFold,
}: {
  message: LineMessage;
  conversation: string;
  onFold: () => void;
}) {
  const { id, siblings, turn, role } = message;
  const what = role === "visitor" ? "line" : "take";
  const at = siblings.findIndex((each) => each.id === id);
  const [left, setLeft] = useState((siblings[at - 1] ?? siblings[at + 1])?.id ?? id);
  const [right, setRight] = useState(id);
  const choice = (label: string, value: string, onChange: (id: string) => void) => (
    <ChoiceValue
      label={label}
      value={value}
      options={siblings.map((each, place) => ({
        value: each.id,
        label: `${what} ${place + 1}${each.name ? ` “${each.name}”` : ""}`,
      }))}
      onChange={onChange}
    />
  );
  return (
    <Beside
      onFold={onFold}
      left={{ conversation, through: left, title: choice(`The one ${what}`, left, setLeft) }}
      right={{ conversation, through: right, title: choice(`The other ${what}`, right, setRight) }}
      from={turn}
    />
  );
}
