/** What the interface says here, to be read through in one place. */
export const findAComponent = "Find a component";
export const onlyThis = "Only this";
export const isometricFromAboveRight = "isometric, from above right";
export const isometricFromAboveLeft = "isometric, from above left";
export const isometricFromBelowRight = "isometric, from below right";
export const isometricFromBelowLeft = "isometric, from below left";
export const viewDirection = "View direction";
export const direction = "Direction";
export const boughtParts = "bought parts";
export const shaftsAndPins = "shafts and pins";
export const componentsOfTheView = (name: string) => `Components of the ${name} view`;
export const done = "Done";
export const ofWord = "of";
export const shownOneTakenOutHides = "shown. One taken out hides nothing behind it.";
export const showAll = "Show all";
export const byClass = "By class";
export const onlyThese = "Only these";
