import { Button } from "@mui/material";
import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { Chat } from "../../frame/Chat";
import { useSession } from "../../frame/session";
import { Empty, Loading } from "../../frame/states";
import { ringTone } from "../../frame/tones";
import { usePageTitle } from "../../frame/title";
import { useHeartbeat } from "../../frame/useLive";
import { Writing } from "../flows/phone/Thread";
import { Messages } from "../mailboxes/Messages";
import { Colleagues, WaitingHere } from "./Around";
import { ContactPanel, deedsOf } from "./ContactPanel";
import styles from "./desk.module.css";
import { StatePanel } from "./StatePanel";
import { TargetPicker } from "./TargetPicker";
import { type Desk as DeskState, type DeskContact, useDesk } from "./useDesk";
import { WrapUpPanel } from "./WrapUpPanel";

type Choice = "transfer" | "consult" | "by_text" | null;

/** What a key of the desk does; null where it does nothing now. */
function deedOfKey(key: string, desk: DeskState, contact: DeskContact | null): string | null {
  const status = desk.agent?.status;
  if (key === "a") return status === "ringing" ? "answer" : null;
  if (key === "v") return status === "away" ? "available" : null;
  if (!contact?.talk) return null;
  if (key === "h") return "end";
  return deedsOf(contact).find((deed) => deed.key?.toLowerCase() === key)?.action ?? null;
}

/** Keys of the desk: each button shows its own. */
function useDeskKeys(
  desk: DeskState,
  contact: DeskContact | null,
  choose: (choice: Choice) => void,
  look: (id: string) => void,
) {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey || target.closest("input,textarea,[role=dialog],[role=menu]"))
        return;
      const key = event.key.toLowerCase();
      const other = desk.agent?.status === "wrapping" ? undefined : desk.contacts[Number(key) - 1];
      if (/^[1-9]$/.test(key) && desk.contacts.length > 1 && other) look(other.id);
      const action = deedOfKey(key, desk, contact);
      if (!action) return;
      event.preventDefault();
      if (action === "transfer" || action === "consult" || action === "by_text") choose(action);
      else desk.act({ action, ...(contact && { contact: contact.id }) });
    };
    window.addEventListener("keydown", press);
    return () => {
      window.removeEventListener("keydown", press);
    };
  }, [desk, contact, choose, look]);
}

function useRingTone(ringing: boolean) {
  useEffect(() => {
    if (!ringing) return undefined;
    ringTone();
    const timer = window.setInterval(ringTone, 2500);
    return () => {
      window.clearInterval(timer);
    };
  }, [ringing]);
}

const titles = { transfer: "Transfer to", consult: "Ask a colleague" };

interface SideProps {
  desk: DeskState;
  contact: DeskContact | null;
  choice: Choice;
  close: () => void;
}

/** The right side: choosing a colleague, writing, wrapping up, or messages. */
function Side({ desk, contact, choice, close }: SideProps) {
  const { agent } = desk;
  if (agent?.status === "wrapping")
    return <WrapUpPanel key={agent.since_ms} agent={agent} codes={desk.codes} desk={desk} />;
  if (contact && choice === "by_text" && contact.can.includes("by_text"))
    return (
      <section className={styles.panel} aria-label="Go on in writing">
        <h2>Go on in writing</h2>
        <Writing
          label={`Message to ${contact.caller}`}
          disabled={desk.busy}
          send={(text) => {
            desk.act({ action: "by_text", text, contact: contact.id });
            close();
          }}
        />
        <div>
          <Button onClick={close}>Close</Button>
        </div>
      </section>
    );
  if (contact && (choice === "transfer" || choice === "consult") && contact.can.includes(choice))
    return (
      <TargetPicker
        key={choice}
        title={titles[choice]}
        close={close}
        go={(to) => {
          desk.act({ action: choice, to, contact: contact.id });
          close();
        }}
      />
    );
  const ask = contact?.can.includes("consult")
    ? (to: string) => {
        desk.act({ action: "consult", to, contact: contact.id });
      }
    : null;
  return (
    <div className={styles.side}>
      {agent && agent.status !== "out" && <WaitingHere queues={agent.queue_ids} />}
      <Colleagues ask={ask} />
      {agent && agent.status !== "out" && (
        <section className={styles.panel} aria-label="Chat">
          <Chat
            title="Chat with your supervisors"
            lines={desk.chat}
            agent
            send={(text) => desk.act({ action: "say", text })}
            empty="They read here what you write, and it stands on the floor until one of them answers."
          />
        </section>
      )}
      <section className={styles.panel} aria-label="Messages for you">
        <Messages />
      </section>
    </div>
  );
}

/** The newest notice; those before it that have not ended stand behind it until it ends. */
function Notices({ notices }: { notices: Schemas["LiveDeskNotice"][] }) {
  const [newest, ...before] = notices.toSorted((a, b) => b.since_ms - a.since_ms);
  const [all, setAll] = useState(false);
  if (!newest) return null;
  return (
    <div role="status" aria-label="Notices" className={styles.notices}>
      <div>
        {newest.text}
        {before.length > 0 && (
          <button type="button" className={styles.before} aria-expanded={all} onClick={() => setAll(!all)}>
            {all ? "Only the newest" : `${before.length} before it`}
          </button>
        )}
      </div>
      {all && before.map((notice) => <div key={notice.since_ms}>{notice.text}</div>)}
    </div>
  );
}

function DeskOf({ agentId }: { agentId: string }) {
  const desk = useDesk(agentId);
  const heartbeat = useHeartbeat();
  const { agent, contacts } = desk;
  const [looked, setLooked] = useState("");
  const [choice, setChoice] = useState<Choice>(null);
  // What rings or is wrapped up is looked at, whatever was chosen before.
  const forced = agent?.status === "ringing" || agent?.status === "wrapping";
  const contact = contacts.find((one) => one.id === (forced ? agent.contact : looked)) ?? contacts[0] ?? null;
  useDeskKeys(desk, contact, setChoice, setLooked);
  const ringing = agent?.status === "ringing";
  useRingTone(ringing);
  usePageTitle(ringing ? `Rings: ${contact?.caller || "a call"}` : undefined);
  if (desk.refused) return <Empty title={desk.refused} />;
  if (!agent) return <Loading what="your desk" />;
  return (
    <>
      <Notices notices={desk.notices} />
      <div className={styles.desk} style={{ opacity: heartbeat.state === "lost" ? 0.5 : 1 }}>
        <StatePanel agent={agent} desk={desk} shown={contact?.id ?? ""} look={setLooked} />
        <ContactPanel key={contact?.id ?? ""} agent={agent} contact={contact} desk={desk} choose={setChoice} />
        <Side desk={desk} contact={contact} choice={choice} close={() => setChoice(null)} />
      </div>
    </>
  );
}

/** Where an agent works: small and calm. */
export default function Desk() {
  const { session } = useSession();
  if (!session.agent)
    return <Empty title="You are not set up as an agent">An administrator adds agents under Talk.</Empty>;
  return <DeskOf agentId={session.agent} />;
}
