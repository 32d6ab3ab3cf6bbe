import { addressFor } from "@/contract/call";
import { benchFiles } from "@/contract/files";
import { Action } from "../Action";
import { count } from "../format";
import styles from "./HeldPictures.module.css";
import type { KeptPicture } from "./kept-pictures";
import type { Adding } from "./use-adding";

/** The pictures that go along with the next message, what is being added, and what could not be. */
export function HeldPictures({ pictures, adding }: { pictures: readonly KeptPicture[]; adding: Adding }) {
  const { underWay, notes, remove, dismiss } = adding;
  if (pictures.length === 0 && underWay === 0 && notes.length === 0) return null;
  return (
    <div className={styles.held}>
      {pictures.length > 0 && (
        <ul aria-label="Pictures that go along">
          {pictures.map(({ file, width, height }, at) => (
            <li key={file}>
              <img src={addressFor(benchFiles.read, { hash: file })} alt={`${width} by ${height} pixels`} />
              <small>
                {count(width)} × {count(height)}
              </small>
              <Action
                aria-label={`Leave out picture ${at + 1}, ${width} by ${height} pixels`}
                onClick={() => remove(file)}
              >
                leave out
              </Action>
            </li>
          ))}
        </ul>
      )}
      <p role="status" className={styles.notes}>
        {underWay > 0 && <span>A picture is made ready.</span>}
        {notes.map(({ id, says, isWrong }) => (
          <span key={id} data-standing={isWrong ? "bad" : undefined}>
            {says}{" "}
            <Action aria-label={`Dismiss: ${says}`} onClick={() => dismiss(id)}>
              dismiss
            </Action>
          </span>
        ))}
      </p>
    </div>
  );
}
