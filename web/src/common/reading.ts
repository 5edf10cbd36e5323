import { create } from "zustand";

/** How many typed values are being read, to become changes: whoever waits for all changes waits for these too. */
export const useReading = create<{ count: number }>(() => ({ count: 0 }));

/** How often a change was refused: a field whose value was on its way takes the true one back. */
export const useRefused = create<{ count: number; refuse: () => void }>((set) => ({
  count: 0,
  refuse: () => set(({ count }) => ({ count: count + 1 })),
}));

/** Read a value and hand it on, counted from the key press to the change. */
export async function counted(work: () => Promise<void>): Promise<void> {
  useReading.setState(({ count }) => ({ count: count + 1 }));
  try {
    await work();
  } finally {
    useReading.setState(({ count }) => ({ count: count - 1 }));
  }
}
