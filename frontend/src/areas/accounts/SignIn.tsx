import { Button, TextField } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, words } from "../../api/client";
import { keys } from "../../api/keys";
import { Mark } from "../../frame/Frame";
import { useNavigate } from "react-router-dom";
import styles from "./accounts.module.css";

function Hills() {
  return (
    <svg viewBox="0 0 1280 260" preserveAspectRatio="none" aria-hidden="true" className={styles.hills}>
      <path d="M0 120 Q160 20 330 96 T660 70 T960 92 T1280 40 V260 H0z" fill="var(--haze-2)" />
      <path d="M0 170 Q200 90 420 160 T820 128 T1280 150 V260 H0z" fill="var(--haze-1)" />
      <path d="M0 220 Q260 160 520 214 T1280 196 V260 H0z" fill="var(--lichen)" opacity="0.55" />
    </svg>
  );
}

/** The door. */
export function SignIn() {
  const cache = useQueryClient();
  const navigate = useNavigate();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const enter = useMutation({
    mutationFn: () => data(api.POST("/api/v1/session", { body: { username, password } })),
    onSuccess: (session) => {
      cache.setQueryData(keys.session, session);
      if (window.location.pathname === "/") void navigate("/");
    },
  });
  return (
    <main className={styles.page}>
      <Hills />
      <form
        aria-label="Sign in"
        onSubmit={(event) => {
          event.preventDefault();
          enter.mutate();
        }}
        className={styles.card}>
        <div className="along">
          <Mark /> <h1 className={styles.title}>Hazeridge</h1>
        </div>
        <TextField
          label="Sign-in name"
          value={username}
          autoFocus
          required
          autoComplete="username"
          onChange={(event) => setUsername(event.target.value)}
        />
        <TextField
          label="Password"
          type="password"
          value={password}
          required
          autoComplete="current-password"
          onChange={(event) => setPassword(event.target.value)}
        />
        {enter.isError && (
          <div role="alert" className="wrong">
            {words(enter.error)}
          </div>
        )}
        <Button type="submit" variant="contained" size="medium" disabled={enter.isPending}>
          {enter.isPending ? "Signing in…" : "Sign in"}
        </Button>
      </form>
    </main>
  );
}
