/** What the interface says here, to be read through in one place. */
export const files = "Files";
export const states = "States";
export const queue = "Queue";
export const tabs = "What is shown";
export const rules = "Release rules";
export const openRules = "Open";
export const everything = "everything anew";
export const note = "Note";
export const release = "Release";
export const ofAll = "all of the job";
export const releaseWithoutThem = "Release without these flat patterns";
export const ofSelected = (count: number) => (count === 1 ? "1 selected" : `${count} selected`);
export const whatIsReleased = "What";
export const revisions = "Revisions";
export const byLetters = "A, B, C";
export const byNumbers = "1, 2, 3";
export const yourName = "Your name";
export const outboxFiles = (count: number, kept: number) => `${count === 1 ? "1 file" : `${count} files`}${kept ? `, ${kept} of them as they were` : ""}`;
export const asItWas = "as it was";
export const lookingAhead = "Working out the files";
export const lookingAtParts = "Looking at the parts: what kind they are says which files they have";

export const noReleases = "Nothing has been released yet.";
export const releaseNo = (id: number) => `Release ${id}`;
export const ofRules = (name: string, version: number) => `${name}, version ${version}`;
export const by = (name: string) => `by ${name}`;
export const stateWords: Record<string, string> = {
  running: "under way",
  paused: "paused",
  done: "done",
  failed: "not all was made",
  cancelled: "called off",
};
export const fileStates: Record<string, string> = {
  waiting: "waiting",
  working: "being made",
  made: "made",
  kept: "as it was",
  failed: "failed",
  cancelled: "called off",
};
export const anyState = "any state";
export const stateShown = "State of the files";
export const findFile = "Find a file";
export const pause = "Pause";
export const resume = "Go on";
export const cancel = "Call off";
export const retry = "Try again";
export const first = "Make first";
export const asZip = "Download as ZIP";
export const secondsLeft = (seconds: number) =>
  seconds < 90 ? `about ${Math.max(1, Math.round(seconds))} s left` : `about ${Math.round(seconds / 60)} min left`;
export const path = "File";
export const kind = "Kind";
export const state = "State";
export const log = "Size";
export const progress = (done: number, all: number) => `${done} of ${all}`;
export const size = (bytes: number) => (bytes > 1e6 ? `${(bytes / 1e6).toFixed(1)} MB` : `${Math.max(1, Math.round(bytes / 1e3))} kB`);

export const what = "What";
export const mark = "Mark";
export const name = "Name";
export const revision = "Rev.";
export const since = "Since";
export const sheet = "sheet";
export const setTo = "Set to";
export const nextRevision = "Begin next revision";
export const logOfStates = "Log of states";
export const choose = (called: string) => `Select ${called}`;
export const releaseThem = "Release these files too";
export const selectToSet = "Tick rows to set states, or to release them alone.";

export const rulesTitle = (called: string) => `Rules: ${called}`;
export const nameOfRules = "Name of the rules";
export const copyAndEdit = "Copy and edit";
export const shipped = "These rules ship and stay as they are.";
export const copyOf = (called: string) => `${called}, own`;
export const addFiles = "Add files";
export const fileNo = (index: number) => `Files ${index}`;
export const kindOf = (index: number) => `Kind of files ${index}`;
export const recipeOf = (index: number) => `Recipe of files ${index}`;
export const nameOf = (index: number) => `Name of files ${index}`;
export const folderOf = (index: number) => `Folder of files ${index}`;
export const fieldOf = (index: number) => `Property of files ${index}`;
export const valueOf = (index: number) => `Value of files ${index}`;
export const madeOf = (index: number) => `Made of, files ${index}`;
export const fileName = "Name";
export const folder = "Folder";
export const recipe = "Recipe";
export const onlyIf = "Only if";
export const is = "is";
export const anythingButNo = "anything but no";
export const always = "always";
export const remove = "Remove";
export const bought = "bought parts too";
export const earlier = "Earlier files";
export const movedAside = "moved aside";
export const replaced = "replaced";
export const keepAsFile = "As a file";
export const fromAFile = "Rules from a file";
export const drop = "Remove these rules";
export const ownRecipe = "its own";
export const properties =
  "Properties in braces: {mark} {name} {number} {revision} {material} {thickness} {kind} {job} {assemblies}, own fields; of sheets also {sheet} {format} {place}.";
export const isEmpty = "A file needs a name.";

export const findSubject = "Find mark or name";
export const noSubject = "No part and no sheet is like that.";
export const statePart = "Part";
export const stateDrawing = "Drawing";
export const giveMarks = "Give marks …";
