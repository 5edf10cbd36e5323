import { Input, Modal } from "antd";
import { useMemo, useState } from "react";
import { allCommands, useCommandStore, type Command } from "../common/commands";
import * as texts from "./texts";

/** The list of all that can be done here, found by typing. */
export function Palette({ setOpen }: { setOpen: (open: boolean) => void }) {
  const groups = useCommandStore((state) => state.groups);
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const commands = useMemo(() => allCommands(groups), [groups]);
  const found = commands.filter((command) =>
    text
      .toLowerCase()
      .split(/\s+/)
      .every((word) => command.title.toLowerCase().includes(word)),
  );

  const run = (command: Command | undefined) => {
    setOpen(false);
    setText("");
    command?.run();
  };

  return (
    <Modal open onCancel={() => setOpen(false)} footer={null} closable={false} width={520} destroyOnHidden title={texts.whatToDo}>
      <Input
        autoFocus
        aria-label={texts.findAnAction}
        placeholder={texts.typeAFewLetters}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === "ArrowDown") setAt(Math.min(at + 1, found.length - 1));
          else if (event.key === "ArrowUp") setAt(Math.max(at - 1, 0));
          else if (event.key === "Enter") run(found[at]);
          else return;
          event.preventDefault();
        }}
      />
      <ul className="palette" role="listbox" aria-label={texts.actions}>
        {found.map((command, index) => (
          <li key={command.id} role="none">
            <button
              type="button"
              role="option"
              aria-selected={index === at}
              className={index === at ? "at" : ""}
              onMouseEnter={() => setAt(index)}
              onClick={() => run(command)}
            >
              <span>{command.title}</span>
              {command.key && <kbd>{command.key}</kbd>}
            </button>
          </li>
        ))}
        {!found.length && (
          <li className="soft" role="none">
            {texts.noMatchTryAnotherWord}
          </li>
        )}
      </ul>
    </Modal>
  );
}
