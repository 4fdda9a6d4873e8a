import { clock } from "../../../frame/format";
import { Considered } from "../../shared/Considered";
import { endingWords } from "../endings";
import styles from "./phone.module.css";
import type { LogLine } from "./useTelephone";

/** Why a ringing ended without an answer: what the agent did, or what happened to the caller. */
const ringEnds: Record<string, (agent: string) => { head: string; why: string }> = {
  missed: (agent) => ({ head: `${agent} did not answer`, why: "the ring time passed" }),
  declined: (agent) => ({ head: `${agent} declines`, why: "" }),
  desk_closed: (agent) => ({ head: `Stops ringing ${agent}`, why: "the desk was closed" }),
  caller_left: (agent) => ({ head: `Stops ringing ${agent}`, why: "the caller was gone" }),
  other: (agent) => ({ head: `Stops ringing ${agent}`, why: "somebody else was first" }),
};

const leaving: Record<string, string> = {
  hung_up: "the caller hung up",
  waited_out: "the longest wait has passed",
  queue_gone: "the queue is gone",
  queue_closed: "it is closed at this hour",
  nobody_there: "nobody is signed in",
  other_channel: "it does not take this channel",
  cancelled: "cancelled",
  message: "to leave a message",
  callback: "to be called back",
};

const asking: Record<string, string> = { consult: "to ask", help: "for help", emergency: "in an emergency" };
const recorded: Record<string, string> = {
  queue: "by the queue’s rule",
  agent: "the agent asked for it",
  emergency: "in an emergency",
};
const attending: Record<string, string> = { listens: "listens", coaches: "coaches the agent", joins: "joins them" };
const steering: Record<string, (e: LogLine) => string> = {
  priority: (e) => `gives the contact priority ${e.value ?? 0}`,
  move: (e) => `moves the caller to ${e.to ?? "another queue"}`,
  offer: () => "has a callback offered",
};

/** What each kind of line in a call's log says to a reader; other kinds say nothing. */
const sayings: Record<string, ((entry: LogLine) => { head: string; why: string }) | undefined> = {
  "contact.moved": (e) =>
    e.title ? { head: `${e.title}: ${e.sentence ?? ""}`, why: e.words ?? "" } : { head: e.words ?? "", why: "" },
  "contact.heard": (e) => ({ head: `Hears “${e.words ?? ""}”`, why: "" }),
  "contact.texted": (e) => ({
    head: `${e.by === "agent" ? e.agent_name || "The agent" : "Writes"}: ${e.words ? `“${e.words}”` : "the words are not kept any more"}`,
    why: "",
  }),
  "contact.listens": () => ({ head: "Waits for a key", why: "" }),
  "contact.keyed": (e) => ({
    head: `${e.by === "agent" ? `${e.agent_name} presses` : "Presses"} ${e.key ?? ""}`,
    why: "",
  }),
  "contact.spoken": (e) => ({ head: `Says “${e.words ?? ""}”`, why: e.meant ? "" : "not understood" }),
  "contact.queued": () => ({ head: "Waits in the queue, with music", why: "" }),
  "callback.booked": (e) => ({
    head: `A callback to ${e.words ?? "the caller"} is booked`,
    why: "the place in line is kept",
  }),
  "callback.calls": (e) => ({ head: `${e.agent_name} calls ${e.words ?? ""}`, why: `attempt ${e.attempt ?? ""}` }),
  "callback.not_reached": (e) => ({
    head: "Not reached",
    why: e.result === "given_up" ? "the agent stopped ringing" : (e.result ?? "").replace("_", " "),
  }),
  "contact.left_queue": (e) => ({ head: "Leaves the queue", why: leaving[e.why ?? ""] ?? "" }),
  "contact.ended": (e) => ({ head: endingWords[e.ending ?? ""] ?? "Over", why: "" }),
  "leg.rang": (e) => ({ head: `Rings ${e.agent_name}`, why: e.words ?? "" }),
  "leg.ring_stopped": (e) =>
    ringEnds[e.why ?? ""]?.(e.agent_name) ?? { head: `Stops ringing ${e.agent_name}`, why: "" },
  "leg.answered": (e) => ({ head: `${e.agent_name} answers`, why: "" }),
  "contact.diverted": (e) => ({ head: "Diverted", why: e.words ?? "" }),
  "contact.rings_out": (e) => ({ head: `Rings ${e.words ?? "outside"}`, why: "" }),
  "contact.rang_out": (e) => ({
    head:
      {
        answered: "Somebody answers there",
        busy: "It is busy",
        failed: "It cannot be reached",
        done: "Whoever answered hangs up",
      }[e.result ?? ""] ?? "",
    why: "",
  }),
  "contact.rings_person": (e) => ({ head: `Rings ${e.words ?? "somebody"}`, why: "" }),
  "contact.music": (e) => ({ head: e.words ? `Hears music: ${e.words}` : "Hears music", why: "" }),
  "contact.looks_up": (e) => ({ head: `Looks ${e.key ?? ""} up`, why: "" }),
  "contact.labelled": (e) => ({ head: `Labelled “${e.label ?? ""}”`, why: "" }),
  "contact.records": (e) => ({ head: `Records for ${e.words ?? "the mailbox"}`, why: "" }),
  "contact.message_left": (e) => ({
    head: `A message is left in ${e.words ?? "the mailbox"}`,
    why: clock(e.length_ms ?? 0),
  }),
  "contact.went_on": (e) => ({ head: `Goes on in ${e.words ?? "another flow"}`, why: "" }),
  "talk.held": (e) => ({
    head: e.on ? `${e.agent_name} puts the caller on hold` : `${e.agent_name} takes the caller back`,
    why: "",
  }),
  "talk.consults": (e) => ({
    head: `${e.agent_name} rings ${e.words ?? "a colleague"}`,
    why: asking[e.purpose ?? ""] ?? "",
  }),
  "talk.joined": (e) => ({ head: `${e.words ?? "A colleague"} joins them`, why: "" }),
  "talk.consult_over": (e) => ({ head: `${e.words ?? "The colleague"} is gone again`, why: "" }),
  "talk.recording": (e) => ({
    head: e.on ? "Recorded from here on" : "Recorded no more",
    why: e.on ? (recorded[e.by ?? ""] ?? "") : e.by === "agent" ? "the agent asked for it" : "",
  }),
  "talk.transferred": (e) => ({ head: `${e.agent_name} sends the caller on to ${e.words ?? "somebody"}`, why: "" }),
  "talk.emergency": (e) => ({
    head: `${e.agent_name} presses the emergency button`,
    why: e.words ? `${e.words} is rung in` : "",
  }),
  "talk.emergency_taken": (e) => ({ head: `${e.words ?? "Somebody"} looks after the emergency`, why: "" }),
  "talk.attended": (e) => ({
    head: `${e.words ?? "A supervisor"} ${attending[e.how ?? ""] ?? "is gone again"}`,
    why: "",
  }),
  "talk.taken_over": (e) => ({ head: `${e.words ?? "A supervisor"} takes the caller over`, why: "" }),
  "talk.given_back": (e) => ({
    head:
      e.why === "lost"
        ? `${e.words ?? "The supervisor"}’s telephone is gone`
        : `${e.words ?? "The supervisor"} has done with the caller`,
    why: e.to ? `on to ${e.to}` : "",
  }),
  "floor.steered": (e) => ({ head: `${e.words ?? "A supervisor"} ${steering[e.act ?? ""]?.(e) ?? "acts"}`, why: "" }),
  "leg.coded": (e) => ({ head: `Wrapped up by ${e.agent_name}`, why: e.name ? `code: ${e.name}` : "no code" }),
};

/** Who else was looked at for a contact, and what was made of them; told when it is asked for. */
function Others({ considered }: { considered: NonNullable<LogLine["considered"]> }) {
  return (
    <details className={styles.others}>
      <summary>Who else</summary>
      <Considered considered={considered} />
    </details>
  );
}

/** What was heard and decided, and why; `now` is the moment that is heard again, if one is. */
export function Transcript({ log, began, now }: { log: LogLine[]; began: number; now?: number | null }) {
  const at = now == null ? -1 : log.findLastIndex((entry) => entry.at_ms <= now && sayings[entry.kind]?.(entry));
  return (
    <ol className={styles.log} aria-label="Heard and decided, and why" aria-live="polite">
      {log.map((entry, i) => {
        const line = sayings[entry.kind]?.(entry);
        // A stop that says something is named by its words: they need not stand there twice.
        const told = entry.kind === "contact.heard" && log[i - 1]?.sentence === entry.words;
        return (
          line &&
          !told && (
            <li
              key={i}
              aria-current={i === at || undefined}
              ref={
                i === at
                  ? (line) => {
                      line?.scrollIntoView({ block: "nearest" });
                    }
                  : undefined
              }>
              <span className="dim">{clock(entry.at_ms - began)}</span>
              <div>
                <b>{line.head}</b>
                {line.why && (
                  <span className="dim">
                    <br />
                    {line.why}
                  </span>
                )}
                {entry.considered && entry.considered.length > 0 && <Others considered={entry.considered} />}
              </div>
            </li>
          )
        );
      })}
    </ol>
  );
}
