/** What the interface says here, to be read through in one place. */
export const source = "Source";
export const duplicate = "Duplicate";
export const move2 = "move";
export const sheets = "Sheets";
export const addASheet = "+ Add a sheet";
export const yetPutAViewOr = "yet: put a view or a model on a sheet under";
export const first = "first.";
export const fromATemplate = "From a template …";
