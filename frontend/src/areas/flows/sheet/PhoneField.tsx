import { TextField } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, words } from "../../../api/client";

/** An outside number, typed in any usual way; the server says what it is in E.164. */
export function PhoneField({
  label,
  value,
  disabled,
  change,
}: {
  label: string;
  value: string;
  disabled: boolean;
  change: (e164: string) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const read = useMutation({
    mutationFn: (text: string) => data(api.GET("/api/v1/numbers/read", { params: { query: { text } } })),
    onSuccess: (found) => {
      change(found.address);
      setTyped(null);
    },
  });
  const leave = () => {
    if (typed === null) return;
    if (typed.trim() === "") {
      change("");
      setTyped(null);
      read.reset();
    } else read.mutate(typed);
  };
  return (
    <TextField
      label={label}
      value={typed ?? value}
      disabled={disabled}
      placeholder="01632 960111"
      error={read.isError && typed !== null}
      helperText={read.isError && typed !== null ? words(read.error) : "As it is usually written."}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={leave}
      onKeyDown={(event) => {
        if (event.key === "Enter") leave();
      }}
    />
  );
}
