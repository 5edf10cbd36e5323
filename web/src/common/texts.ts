/** What the interface says here, to be read through in one place. */
export const twoActsHaveOneLetter = (clash: string) => `Two acts have one letter, ${clash}`;
export const aPartOfThePage = "A part of the page did not arrive";
export const skaltoMayHaveBeenStopped = "Skalto may have been stopped or renewed. What was saved is safe.";
export const loadThePageAgain = "Load the page again";
