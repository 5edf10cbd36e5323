/** What the interface says here, to be read through in one place. */
export const texts = {
  noSourceYet: "no source yet",
  changed: "· changed",
  deleteWithAllItsSheets: (name: string) => `Delete ${name} with all its sheets?`,
  deleteWord: "Delete",
  deleteWord2: (name: string) => `Delete ${name}`,
  skalto: "Skalto",
  drawingsAtTrueScaleAnd: "Drawings at true scale, and proved.",
  registerOfIssues: "Register of issues",
  signOut: "Sign out",
  openASavedJob: "Open a saved job",
  nameOfTheNewJob: "Name of the new job",
  nameOfANewJob: "Name of a new job",
  newJob: "New job",
  theDemoJobsAreBeing: "The demo jobs are being made:",
  everythingElseWorksMeanwhile: ". Everything else works meanwhile.",
  noJobYetNameOne: "No job yet. Name one above, then add a model.",
};
