import { Button } from "@mui/material";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import { Player } from "../sounds/Player";
import styles from "./mailboxes.module.css";

type Message = Schemas["Message"];
type Mark = Schemas["WhatEnum"];

function useMark() {
  const cache = useQueryClient();
  const { enqueueSnackbar, closeSnackbar } = useSnackbar();
  const mark = useMutation({
    mutationFn: ({ id, what }: { id: number; what: Mark }) =>
      data(api.POST("/api/v1/messages/{id}/mark", { params: { path: { id } }, body: { what } })),
    onSuccess: (_, { id, what }) => {
      void cache.invalidateQueries({ queryKey: keys.all("messages") });
      void cache.invalidateQueries({ queryKey: keys.all("mailboxes") });
      if (what === "deleted")
        enqueueSnackbar("The message is deleted.", {
          action: (key) => (
            <Button
              color="inherit"
              onClick={() => {
                closeSnackbar(key);
                mark.mutate({ id, what: "restored" });
              }}>
              Undo
            </Button>
          ),
        });
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  return mark.mutate;
}

function Row({ message, withBox, mark }: { message: Message; withBox: boolean; mark: ReturnType<typeof useMark> }) {
  const { session } = useSession();
  const { id } = message;
  const fresh = message.heard_at === null;
  return (
    <li aria-label={`Message from ${message.caller_national}`} className={styles.message}>
      <div className={styles.heading}>
        <b title={message.caller}>{message.caller_national}</b>
        {fresh ? (
          <span className="chip good">new</span>
        ) : (
          <span className="dim">heard by {message.heard_by || "somebody"}</span>
        )}
        {withBox && <span className="dim nowrap">{message.mailbox_name}</span>}
        <span className="fill" />
        <span className="dim">
          {moment(message.left_at, session.time_zone)} · <span className="num">{clock(message.length_ms ?? 0)}</span>
        </span>
      </div>
      <div className="close">
        {!message.take ? (
          <span className="dim">Its sound is on the way…</span>
        ) : (
          <Player
            take={message.take}
            source={`/api/v1/messages/${id}/sound`}
            seconds={(message.length_ms ?? 0) / 1000}
            peaks={message.peaks as number[]}
            heard={() => {
              if (fresh) mark({ id, what: "heard" });
            }}
          />
        )}
        <span className="fill" />
        {message.deleted_at ? (
          <Button onClick={() => mark({ id, what: "restored" })}>Restore</Button>
        ) : (
          <>
            {!fresh && <Button onClick={() => mark({ id, what: "new" })}>New again</Button>}
            <Button color="error" onClick={() => mark({ id, what: "deleted" })}>
              Delete
            </Button>
          </>
        )}
      </div>
    </li>
  );
}

const PAGE = 20;

/** The messages of one mailbox, or of all that one may listen to; newest first. */
export function Messages({ mailbox }: { mailbox?: string }) {
  const [deleted, setDeleted] = useState(false);
  const [page, setPage] = useState(1);
  const mark = useMark();
  const query = { page, page_size: PAGE, ...(mailbox && { mailbox }), ...(deleted && { deleted: "1" as const }) };
  const list = useQuery({
    queryKey: keys.list("messages", query),
    queryFn: () => data(api.GET("/api/v1/messages", { params: { query } })),
    placeholderData: keepPreviousData,
    refetchInterval: 10_000,
  });
  const count = list.data?.count ?? 0;
  return (
    <section aria-label="Messages">
      <div className="along">
        <h2>{deleted ? "Deleted messages" : "Messages"}</h2>
        <span className="dim">{list.data?.count}</span>
        <span className="fill" />
        <Button
          onClick={() => {
            setDeleted(!deleted);
            setPage(1);
          }}>
          {deleted ? "Show those kept" : "Show deleted"}
        </Button>
      </div>
      {list.isPending && <Loading what="the messages" />}
      {list.isError && <Failure error={list.error} retry={() => void list.refetch()} />}
      {list.data && count === 0 && (
        <span className="dim">{deleted ? "None was deleted." : "Nobody has left a message."}</span>
      )}
      <ul className={styles.messages}>
        {list.data?.results.map((message) => (
          <Row key={message.id} message={message} withBox={!mailbox} mark={mark} />
        ))}
      </ul>
      {count > PAGE && (
        <div className="along">
          <Button disabled={page === 1} onClick={() => setPage(page - 1)}>
            Newer
          </Button>
          <Button disabled={page * PAGE >= count} onClick={() => setPage(page + 1)}>
            Older
          </Button>
        </div>
      )}
    </section>
  );
}
