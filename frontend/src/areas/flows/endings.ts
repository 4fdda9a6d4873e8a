/** What each ending of a call is called. */
export const endingWords: Record<string, string> = {
  person: "With a person", ended: "Ended by us", hung_up: "Hung up on the way", failed: "Met the failure rule", message: "Message left", elsewhere: "Sent elsewhere",
};
