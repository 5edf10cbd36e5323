import { create } from "zustand";

/** How many typed values are being read, to become changes: whoever waits for all changes waits for these too. */
export const useReading = create<{ count: number }>(() => ({ count: 0 }));

/** Read a value and hand it on, counted from the key press to the change. */
export async function counted(work: () => Promise<void>): Promise<void> {
  useReading.setState(({ count }) => ({ count: count + 1 }));
  try {
    await work();
  } finally {
    useReading.setState(({ count }) => ({ count: count - 1 }));
  }
}
