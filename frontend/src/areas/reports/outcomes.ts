const words: Record<string, string> = {
  answered: "Answered",
  abandoned: "Abandoned",
  messages: "Left a message",
  callbacks: "Callback",
  elsewhere: "Sent elsewhere",
  ended: "Ended by flow",
  under_way: "Under way",
  queue: "From the queue",
  direct: "Rung directly",
  transferred: "Passed on to them",
  callback: "Called back",
  begun: "Begun by the agent",
  consult: "Asked by a colleague",
  missed: "Not answered",
  declined: "Declined",
  desk_closed: "No desk was open",
};

/** What became of a stay in a queue or of a ring, or how an agent's part began, in words. */
export function outcomeWords(outcome: string, late = false): string {
  const said = words[outcome] ?? outcome;
  return late && (outcome === "answered" || outcome === "abandoned") ? `${said} late` : said;
}
