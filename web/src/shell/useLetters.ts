import { useEffect } from "react";
import { allCommands, isTyping, letterOf, useCommandStore } from "../common/commands";

/** Hears the single letters of all that can be done here, and K for the list of it. */
export function useLetters(setOpen: (open: boolean) => void) {
  const groups = useCommandStore((state) => state.groups);
  useEffect(() => {
    const commands = allCommands(groups);
    const hear = (event: KeyboardEvent) => {
      if (event.altKey || isTyping(event.target)) return;
      if (event.ctrlKey || event.metaKey) {
        const held = commands.find((command) => command.key === `Ctrl+${event.key.toUpperCase()}`);
        // words that are marked are copied as words
        if (held && !window.getSelection()?.toString()) {
          event.preventDefault();
          held.run();
        }
        if (event.key.toLowerCase() !== "z") return;
        event.preventDefault();
        commands.find((command) => command.id === (event.shiftKey ? "redo" : "undo"))?.run();
        return;
      }
      if (letterOf(event) === "K") {
        event.preventDefault();
        setOpen(true);
        return;
      }
      const command = commands.find((other) => other.key === letterOf(event));
      if (command) {
        event.preventDefault();
        command.run();
      }
    };
    window.addEventListener("keydown", hear);
    return () => window.removeEventListener("keydown", hear);
  }, [groups, setOpen]);
}
