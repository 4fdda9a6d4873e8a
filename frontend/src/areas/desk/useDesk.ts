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
  wrap_up: "none" | "optional" | "required";
  queues: string[];
}

export interface DeskContact {
  id: string;
  caller: string;
  number: string;
  label: string;
  noted: string;
  /** Where it is a call back: which attempt, and whether the caller is there. */
  callback: { attempt: number; attempts: number; talking: boolean } | null;
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
}

interface Act {
  action: string;
  reason?: string;
  code?: string | null;
  text?: string;
}

/** The desk as the exchange sees it, and what can be done at it. */
export function useDesk(agentId: string) {
  const { view, refused } = useTopic(`desk.${agentId}`);
  const { enqueueSnackbar } = useSnackbar();
  const act = useMutation({
    mutationFn: ({ action, ...body }: Act) => api.POST("/api/v1/desk/{action}", { params: { path: { action } }, body }),
    onError: (error) => { enqueueSnackbar(words(error), { variant: "error" }); },
  });
  const contact = view?.contact as unknown as DeskContact | undefined;
  return {
    refused,
    agent: view?.agent as unknown as DeskAgent | undefined,
    contact: contact?.id ? contact : null,
    codes: Object.values((view?.codes ?? {}) as unknown as Record<string, Code>),
    act: act.mutate,
    busy: act.isPending,
  };
}
