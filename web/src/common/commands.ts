import { useEffect, useRef } from "react";
import { create } from "zustand";
import * as texts from "./texts";

/** Something a person can do, in words, with the single letter that does it. */
export interface Command {
  id: string;
  title: string;
  key?: string;
  run: () => void;
}

interface CommandStore {
  groups: Record<string, Command[]>;
  set: (group: string, commands: Command[]) => void;
  drop: (group: string) => void;
}

export const allCommands = (groups: Record<string, Command[]>): Command[] => Object.values(groups).flat();

/** The commands of a screen that claim the same letter; Escape is for whatever is on top. */
export function clashes(groups: Record<string, Command[]>): string[] {
  const keyed = allCommands(groups).filter((command) => command.key && command.key !== "Escape");
  return keyed.flatMap((command, i) => {
    const first = keyed.findIndex((other) => other.key === command.key);
    return first < i ? [`${command.key}: ${keyed[first]?.title} / ${command.title}`] : [];
  });
}

export const useCommandStore = create<CommandStore>((set) => ({
  groups: {},
  set: (group, commands) =>
    set((state) => {
      const groups = { ...state.groups, [group]: commands };
      for (const clash of clashes(groups)) console.error(texts.twoActsHaveOneLetter(clash));
      return { groups };
    }),
  drop: (group) => set((state) => ({ groups: Object.fromEntries(Object.entries(state.groups).filter(([name]) => name !== group)) })),
}));

/** Offer commands while a component is shown: in the palette and by their letters. */
export function useCommands(group: string, commands: Command[]) {
  const { set, drop } = useCommandStore.getState();
  const latest = useRef(commands);
  useEffect(() => {
    latest.current = commands;
  });
  const sign = commands.map((command) => `${command.id}:${command.title}:${command.key ?? ""}`).join("|");
  useEffect(() => {
    set(
      group,
      latest.current.map((command) => ({
        ...command,
        run: () => latest.current.find((other) => other.id === command.id)?.run(),
      })),
    );
    return () => drop(group);
  }, [group, sign, set, drop]);
}

/** Whether a key press belongs to a field that is being typed in, or to an open dialog. */
export function isTyping(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  // what has keys of its own, as a model that is walked through
  if (target.closest("[data-own-keys]")) return true;
  return target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName) || !!target.closest(".ant-modal");
}

/** The letter of a key press as commands name it: upper case, with "Shift+" before it where it was held. */
export function letterOf(event: KeyboardEvent): string {
  const key = event.key.length === 1 ? event.key.toUpperCase() : event.key;
  return event.shiftKey && /^[A-Z]$/.test(key) ? `Shift+${key}` : key;
}
