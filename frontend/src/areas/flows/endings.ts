/** What each ending of a call is called. */
export const endingWords: Record<string, string> = {
  person: "With a person",
  ended: "Ended by us",
  hung_up: "Hung up in the flow",
  failed: "Met the failure rule",
  message: "Message left",
  callback: "Callback booked",
  not_reached: "Called back in vain",
  cancelled: "Callback cancelled",
  elsewhere: "Sent elsewhere",
};
