import { Modal } from "antd";

const keys: [string, string][] = [
  ["0-9 - . O", "start typing a reading"],
  ["1 2 3", "answer a question: the first, second, third answer"],
  ["Enter", "record it"],
  ["Esc", "leave the field"],
  ["U", "strike out the last one"],
  ["Space", "take the live reading, when it has come to rest"],
  ["N", "another reading"],
  ["W", "walk the path: black stays, red moves"],
  ["C", "cannot reach this one"],
  ["S", "next state of the circuit"],
  ["/", "search, on the board"],
  ["G and a letter", "go to a stage: C complaint, Q quick checks, M measure, D decide, B board"],
  ["?", "this list"],
];

export function KeyHelp({ onClose }: { onClose: () => void }) {
  return (
    <Modal open title="Keys" footer={null} onCancel={onClose}>
      <dl className="keys">
        {keys.map(([k, what]) => (
          <div key={k}>
            <dt>
              <kbd>{k}</kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
