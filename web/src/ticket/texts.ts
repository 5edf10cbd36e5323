/** What the interface says here, to be read through in one place. */
export const still = "Still";
export const ticket = "Ticket";
export const isNotAnAngleWrite = (text: string) => `“${text}” is not an angle: write degrees, such as 30.`;
export const viewDirection = "View direction";
