/** What the interface says here, to be read through in one place. */
export const still = "Still";
export const ticket = "Ticket";
export const empty = "empty";
