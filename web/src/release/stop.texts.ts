export const releaseStop = "Release";
export const notYet = "not yet";
export const making = (percent: number) => `making ${percent} %`;
export const failed = "failed";
export const paused = "paused";
export const released = (files: number) => (files === 1 ? "1 file" : `${files} files`);
