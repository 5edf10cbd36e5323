import { create } from "zustand";

interface Editing {
  /** The recipe that is open. */
  shown: string | null;
  /** What becomes of a copy that is made meanwhile. */
  adopt: ((id: string) => void) | null;
  open: (id: string, adopt: (id: string) => void) => void;
  close: () => void;
}

/** Which recipe is open: whatever is beneath may change while it is. */
export const useEditing = create<Editing>()((set) => ({
  shown: null,
  adopt: null,
  open: (shown, adopt) => set({ shown, adopt }),
  close: () => set({ shown: null, adopt: null }),
}));
