import { useSession } from "../../frame/session";
import { useTopic } from "../../frame/useLive";

/** Who else has this flow open at the moment: what they save comes together with what is saved here. */
export function OthersHere({ id }: { id: string }) {
  const { session } = useSession();
  const { view } = useTopic("authors", id);
  const lines = Object.values(view?.people ?? {});
  const others = [...new Set(lines.filter((line) => line.user !== session.username).map((line) => line.name))];
  const own = lines.filter((line) => line.user === session.username).length > 1 ? ["another window of yours"] : [];
  const named = [...others, ...own];
  if (named.length === 0) return <span role="status" />;
  return (
    <span
      role="status"
      className="chip warns"
      title="What you both change comes together; where you change the same, you are asked.">
      also open: {named.join(", ")}
    </span>
  );
}
