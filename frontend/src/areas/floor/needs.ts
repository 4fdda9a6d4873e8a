import { clock } from "../../frame/format";
import type { FloorAgent, Need } from "./types";

const says: Record<Need["why"], (need: Need) => string> = {
  long_talk: (need) => `long talk, over ${clock(need.limit * 1000)}`,
  long_wrap: (need) => `wrap-up over ${clock(need.limit * 1000)}`,
  long_away: (need) => `away longer than ${clock(need.limit * 1000)}`,
  missed: (need) => `missed ${need.limit} of the last 5 rings`,
  desk_closed: () => "the desk is closed",
  help: () => "asks for help",
  wrote: () => "wrote to you",
};

/** Why somebody needs a look now, in words. */
export function needsNow(agent: FloorAgent, now: number): string[] {
  return agent.needs.filter((need) => need.from_ms <= now).map((need) => says[need.why](need));
}
