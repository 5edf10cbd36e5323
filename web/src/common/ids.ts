/** A new id, 8 hexadecimal digits. Also over plain http from another machine, where the browser gives no UUIDs. */
export const newId = () => [...crypto.getRandomValues(new Uint8Array(4))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
