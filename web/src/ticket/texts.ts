/** What the interface says here, to be read through in one place. */
export const texts = {
  still: "Still",
  ticket: "Ticket",
  isNotAnAngleWrite: (text: string) => `“${text}” is not an angle: write degrees, such as 30.`,
  viewDirection: "View direction",
};
