import { count } from "../format";
import styles from "./DataTree.module.css";

/** Members of a list or an object that are shown at once. */
const mostShown = 200;

/** A JSON value as a tree: what has members folds. */
export function DataTree({ value, name }: { value: unknown; name?: string }) {
  const label = name === undefined ? null : <span className={styles.name}>{name}</span>;
  if (typeof value !== "object" || value === null)
    return (
      <div className={styles.leaf}>
        {label}
        <span data-kind={value === null ? "null" : typeof value}>{leafText(value)}</span>
      </div>
    );
  const members = Object.entries(value);
  const isList = Array.isArray(value);
  return (
    <details open className={styles.node}>
      <summary>
        {label ?? <span className={styles.name}>the reply</span>}{" "}
        <small>{isList ? `${members.length} in a list` : members.length === 0 ? "nothing in it" : ""}</small>
      </summary>
      <ul>
        {members.slice(0, mostShown).map(([key, member]) => (
          <li key={key}>
            <DataTree value={member} name={isList ? String(Number(key) + 1) : key} />
          </li>
        ))}
        {members.length > mostShown && <li>and {count(members.length - mostShown)} more</li>}
      </ul>
    </details>
  );
}

function leafText(value: unknown): string {
  if (value === null) return "nothing";
  return typeof value === "string" ? value : String(value);
}
