import { Modal } from "antd";
import styles from "./KeyList.module.css";

const list: [string, string][] = [
  ["Enter", "sends the message"],
  ["Shift + Enter", "breaks the line"],
  ["Esc", "stops the reply, or closes a station"],
  ["Alt + 1 to Alt + 6", "open the stations"],
  ["↑ and ↓", "recall what was sent, where nothing is written"],
  ["Alt + G", "says the conversation again on the draft"],
  ["Alt + A", "asks for another take of the last reply"],
  ["Alt + ↑ and Alt + ↓", "go between the places where takes or lines part"],
  ["1 to 9, 0", "there, choose one by its number"],
  ["Alt + N", "begins a new conversation"],
  ["?", "shows this list"],
];

/** The keys of Build. */
export function KeyList({ isOpen, onClose }: { isOpen: boolean; onClose: () => void }) {
  return (
    <Modal title="Keys" open={isOpen} onCancel={onClose} footer={null} width={420}>
      <dl className={styles.list}>
        {list.map(([key, does]) => (
          <div key={key}>
            <dt>
              <kbd>{key}</kbd>
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
