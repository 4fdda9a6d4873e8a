import { useMutation } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { api, words } from "../../api/client";
import { useTopic } from "../../frame/useLive";
import type { Written } from "../flows/phone/Thread";

export interface DeskAgent {
  name: string;
  extension: string;
  status: string;
  reason: string;
  since_ms: number;
  due_ms: number | null;
  next: [string, string] | null;
  away_reasons: string[];
  /** Whether the wrap-up in hand needs a code. */
  must_code: boolean;
  target_wrap_s: number;
  reminder_s: number;
  screen_s: number;
  line: "browser" | "dialled" | "open";
  line_open: boolean;
  /** The contact in hand. */
  contact: string;
  queues: string[];
  /** How many contacts want their wrap-up after the one in hand. */
  to_wrap: number;
  /** The callback whose caller was not reached last. */
  unreached: { at_ms: number; number: string; result: string; next_ms: number; attempt: number; attempts: number } | null;
}

/** How a contact stands: on hold, recorded, and whoever is asked beside it. */
export interface Talk {
  held: boolean;
  recording: boolean;
  /** The caller is being told; the recording begins after that. */
  notice: boolean;
  joined: boolean;
  purpose: "" | "consult" | "help" | "emergency";
  side: string;
  side_talks: boolean;
}

export interface DeskContact {
  id: string;
  caller: string;
  number: string;
  label: string;
  noted: string;
  /** Where a colleague asks: who, and why. */
  asked_by: string;
  purpose: string;
  talk: Talk | null;
  can: string[];
  values: Record<string, unknown>;
  link: string;
  reply_due_ms: number | null;
  unanswered: boolean;
  /** Where it is a call back: which attempt, and whether the caller is there. */
  callback: { attempt: number; attempts: number; talking: boolean } | null;
  /** Of an emergency: who looks after it, empty while nobody does; null for none. */
  alarm: { taken_by: string } | null;
  channel: "voice" | "text";
  thread: Written[];
  queue: string;
  note: string;
  arrived_ms: number;
  entered_ms: number;
  path: { title: string; sentence: string; words: string }[];
}

export interface Code {
  id: string;
  name: string;
  digits: string;
  group: string;
  long_label: string;
}

export interface Act {
  action: string;
  reason?: string;
  code?: string | null;
  text?: string;
  to?: string;
  key?: string;
  contact?: string;
  keypad?: boolean;
}

/** The desk as the exchange sees it, and what can be done at it. */
export function useDesk(agentId: string) {
  const { view, refused } = useTopic(`desk.${agentId}`);
  const { enqueueSnackbar } = useSnackbar();
  const act = useMutation({
    mutationFn: ({ action, ...body }: Act) => api.POST("/api/v1/desk/{action}", { params: { path: { action } }, body }),
    onError: (error) => { enqueueSnackbar(words(error), { variant: "error" }); },
  });
  const agent = view?.agent as unknown as DeskAgent | undefined;
  const contacts = (view?.contacts ?? {}) as unknown as Record<string, DeskContact>;
  const inHand = agent ? contacts[agent.contact] : undefined;
  return {
    refused,
    agent,
    contacts: [...(inHand ? [inHand] : []), ...Object.values(contacts).filter((one) => one !== inHand)],
    notices: Object.values((view?.notices ?? {}) as unknown as Record<string, { text: string }>),
    codes: Object.values((view?.codes ?? {}) as unknown as Record<string, Code>),
    act: act.mutate,
    busy: act.isPending,
  };
}

export type Desk = ReturnType<typeof useDesk>;
