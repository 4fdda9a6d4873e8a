import { useMutation } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { api, type Schemas, words } from "../api/client";
import { useSession } from "./session";
import { useTopic } from "./useLive";

export type Held = Schemas["LiveHeldContact"];
export type Attended = Schemas["LiveAttendedContact"];

type OnContact = Schemas["OnContactRequest"] & { contact: string; act: string };
type OnAgent = Schemas["OnAgentRequest"] & { agent: string; act: string };

/** What a supervisor can do on the floor; each act is confirmed by the exchange, or refused in words. */
export function useActing() {
  const { enqueueSnackbar } = useSnackbar();
  const onError = (error: unknown) => {
    enqueueSnackbar(words(error), { variant: "error" });
  };
  const contact = useMutation({
    mutationFn: ({ contact: id, act, ...body }: OnContact) =>
      api.POST("/api/v1/floor/contacts/{contact}/{act}", { params: { path: { contact: id, act } }, body }),
    onError,
  });
  const agent = useMutation({
    mutationFn: ({ agent: id, act, ...body }: OnAgent) =>
      api.POST("/api/v1/floor/agents/{agent}/{act}", { params: { path: { agent: id, act } }, body }),
    onError,
  });
  return { onContact: contact.mutate, onAgent: agent.mutate, busy: contact.isPending || agent.isPending };
}

/** The contact that this supervisor hears, or has, if there is one. */
export function useAttending(): { id: string; contact: Attended } | null {
  const { session, may } = useSession();
  const { view } = useTopic("supervisor", may("use", "floor") ? session.user : null);
  const first = Object.entries(view?.contacts ?? {})[0];
  return first ? { id: first[0], contact: first[1] } : null;
}
