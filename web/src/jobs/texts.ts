/** What the interface says here, to be read through in one place. */
export const noSourceYet = "no source yet";
export const changed = "· changed";
export const deleteWithAllItsSheets = (name: string) => `Delete ${name} with all its sheets?`;
export const deleteWord = "Delete";
export const deleteWord2 = (name: string) => `Delete ${name}`;
export const skalto = "Skalto";
export const guide = "Guide";
export const drawingsAtTrueScaleAnd = "Drawings at true scale, and proved.";
export const registerOfIssues = "Register of issues";
export const signOut = "Sign out";
export const openASavedJob = "Open a saved job";
export const nameOfTheNewJob = "Name of the new job";
export const nameOfANewJob = "Name of a new job";
export const newJob = "New job";
export const theDemoJobsAreBeing = "The demo jobs are being made:";
export const everythingElseWorksMeanwhile = ". Everything else works meanwhile.";
export const noJobYetNameOne = "No job yet. Name one above, then add a model.";
export const drawings = "Drawings";
