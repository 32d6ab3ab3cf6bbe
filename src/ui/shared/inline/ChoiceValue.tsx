import { Select } from "antd";
import styles from "./inline.module.css";

/** One of several, chosen where it stands in a sentence. */
export function ChoiceValue<V extends string>({
  label,
  value,
  options,
  isSearched = false,
  onChange,
}: {
  label: string;
  value: V;
  /** Whether there are so many that one types to find one. */
  isSearched?: boolean;
  /** Each with how it is called in the list, and in the sentence where that is other. */
  options: readonly { value: V; label: string; said?: string }[];
  onChange: (value: V) => void;
}) {
  const said = options.find((option) => option.value === value)?.said;
  return (
    <Select<V>
      className={styles.value}
      aria-label={label}
      variant="borderless"
      suffixIcon={null}
      popupMatchSelectWidth={false}
      value={value}
      options={[...options]}
      showSearch={isSearched}
      labelRender={said === undefined ? undefined : () => said}
      onChange={onChange}
    />
  );
}
