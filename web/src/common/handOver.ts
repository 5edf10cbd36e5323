/** Hands what is at an address to the browser to keep, under a *name*, or the one that the server gives it. */
export function handOver(address: string, name = "") {
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  link.click();
}

/** The same of what the page has made itself. */
export function handOverData(data: Blob, name: string) {
  const address = URL.createObjectURL(data);
  handOver(address, name);
  // once the browser has it
  setTimeout(() => URL.revokeObjectURL(address), 10_000);
}

/** Puts a text on the clipboard; where the page may not (it is served without encryption to another machine), by the selection. */
export async function copyText(text: string) {
  if (window.isSecureContext) return navigator.clipboard.writeText(text);
  const area = document.createElement("textarea");
  area.value = text;
  document.body.append(area);
  area.select();
  document.execCommand("copy");
  area.remove();
}
