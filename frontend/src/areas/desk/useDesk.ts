import { useMutation } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { api, type Schemas, words } from "../../api/client";
import { useTopic } from "../../frame/useLive";

export type DeskAgent = Schemas["LiveDeskAgent"];
export type DeskContact = Schemas["LiveDeskContact"];
export type Talk = Schemas["LiveTalkNow"];
export type Code = Schemas["LiveDeskCode"];

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
  const { view, refused } = useTopic("desk", agentId);
  const { enqueueSnackbar } = useSnackbar();
  const act = useMutation({
    mutationFn: ({ action, ...body }: Act) => api.POST("/api/v1/desk/{action}", { params: { path: { action } }, body }),
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  const agent = view?.agent;
  const contacts = view?.contacts ?? {};
  const inHand = agent ? contacts[agent.contact] : undefined;
  return {
    refused,
    agent,
    contacts: [...(inHand ? [inHand] : []), ...Object.values(contacts).filter((one) => one !== inHand)],
    notices: Object.values(view?.notices ?? {}),
    codes: Object.values(view?.codes ?? {}),
    chat: view?.chat ?? {},
    act: act.mutate,
    busy: act.isPending,
  };
}

export type Desk = ReturnType<typeof useDesk>;
