import type { Held } from "../../frame/useActing";

type Party = Held["parties"][number];
const doing: Record<Party["doing"], string> = {
  speaks: "speaks",
  hears_music: "hears music",
  waits: "waits",
  rings: "is rung",
  writes: "writes",
  coaches: "speaks with the agent only",
  listens: "listens",
};

/** Who is at a contact, and what each of them does. */
export function Parties({ parties }: { parties: Party[] }) {
  return (
    <span>
      {parties.map((party, at) => (
        <span key={`${party.who} ${party.name}`}>
          {at > 0 && "; "}
          <b>{party.who === "caller" ? "The caller" : party.name}</b> {doing[party.doing]}
        </span>
      ))}
      .
    </span>
  );
}
