/** What the interface says here, to be read through in one place. */
export const guide = "Guide";
export const openTheGuide = "Open the guide";
export const allPages = "All pages";
export const opening = "Opening the guide";
