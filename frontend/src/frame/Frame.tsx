import { Button, Menu, MenuItem } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { Suspense, useEffect, useState } from "react";
import { NavLink, Outlet, useLocation, useNavigate } from "react-router-dom";
import { api, data } from "../api/client";
import { PasswordDialog } from "../areas/accounts/PasswordDialog";
import { keys } from "../api/keys";
import { timeOfDay, weekday } from "./format";
import styles from "./frame.module.css";
import { useTabTitle } from "./title";
import { Banners } from "./Banners";
import { JourneyStrip } from "./JourneyStrip";
import { useMode } from "./mode";
import { Search } from "./Search";
import { useSession } from "./session";
import { help, settings, stages } from "./stages";
import { Glyph, Loading } from "./states";
import { useLineState, useNow, useHeartbeat } from "./useLive";

export function Mark() {
  return (
    <svg width="26" height="16" viewBox="0 0 26 16" aria-hidden="true">
      <path d="M0 16 8 4l5 7 4-5 9 10z" fill="var(--pine)" />
      <path d="M8 4 5.6 7.6l2 1.4 2.2-1.6z" fill="var(--lichen)" />
    </svg>
  );
}

const beats = {
  running: { word: "Running", glyph: "ridge", colour: "var(--fern)" },
  lost: { word: "Exchange lost", glyph: "dashed", colour: "var(--plum)" },
  cut: { word: "Not known: your line is lost", glyph: "dashed", colour: "var(--slate)" },
  unknown: { word: "Exchange not seen yet", glyph: "dashed", colour: "var(--slate)" },
} as const;

function Heartbeat() {
  const { session } = useSession();
  const { state, revision, speed, apart } = useHeartbeat();
  const now = useNow();
  const shown = beats[useLineState() === "lost" ? "cut" : state];
  return (
    <span className={styles.heartbeat} role="status" aria-label={`Exchange: ${shown.word}`}>
      <Glyph name={shown.glyph} colour={shown.colour} />
      {shown.word}
      <span className="dim">
        {revision !== null && <>· revision {revision} </>}
        {speed > 1 && <>· clock at {speed}× </>}·{" "}
        {apart && (
          <span title="This centre lives by a clock of its own, for trying: see Settings, Stand-ins.">
            own clock {weekday(now, session.time_zone)}{" "}
          </span>
        )}
        {timeOfDay(now, session.time_zone)}
      </span>
    </span>
  );
}

function UserMenu() {
  const { session, may } = useSession();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [changing, setChanging] = useState(false);
  const { mode, toggle } = useMode();
  const cache = useQueryClient();
  const navigate = useNavigate();
  const close = () => {
    setAnchor(null);
  };
  const signOut = async () => {
    close();
    const answer = await data(api.DELETE("/api/v1/session"));
    cache.clear();
    cache.setQueryData(keys.session, answer);
    void navigate("/");
  };
  return (
    <>
      <Button color="inherit" aria-haspopup="menu" onClick={(event) => setAnchor(event.currentTarget)}>
        {session.full_name}
      </Button>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={close}>
        <MenuItem disabled>{session.role?.replace("_", " ")}</MenuItem>
        {session.agent && (
          <MenuItem
            onClick={() => {
              close();
              void navigate("/desk");
            }}>
            My desk
          </MenuItem>
        )}
        {settings
          .filter((page) => may("see", page.area))
          .map((page) => (
            <MenuItem
              key={page.path}
              onClick={() => {
                close();
                void navigate(page.path);
              }}>
              {page.name}
            </MenuItem>
          ))}
        <MenuItem
          onClick={() => {
            close();
            void navigate(help.path);
          }}>
          {help.name}
        </MenuItem>
        <MenuItem
          onClick={() => {
            close();
            setChanging(true);
          }}>
          Change password…
        </MenuItem>
        <MenuItem
          onClick={() => {
            toggle();
            close();
          }}>
          {mode === "day" ? "Dark" : "Light"}
        </MenuItem>
        <MenuItem onClick={() => void signOut()}>Sign out</MenuItem>
      </Menu>
      <PasswordDialog open={changing} close={() => setChanging(false)} />
    </>
  );
}

function Tabs() {
  const { may } = useSession();
  const { pathname } = useLocation();
  const stage = stages.find((s) => s.pages.some((page) => pathname.startsWith(page.path)));
  const pages = stage?.pages ?? (settings.some((page) => pathname.startsWith(page.path)) ? settings : []);
  const here = pages.find((page) => pathname.startsWith(page.path));
  const desk = pathname.startsWith("/desk");
  useTabTitle(here?.name ?? (desk ? "My desk" : ""));
  return (
    <nav className={styles.tabs} aria-label={stage ? `Pages of ${stage.name}` : "Pages"}>
      {pages
        .filter((page) => may("see", page.area))
        .map((page) => (
          <NavLink key={page.path} to={page.path}>
            {page.name}
          </NavLink>
        ))}
      {desk && <NavLink to={pathname}>My desk</NavLink>}
    </nav>
  );
}

function LostBanner() {
  const state = useLineState();
  if (state !== "lost") return <div />;
  return (
    <div className={styles.lost} role="alert">
      <Glyph name="dashed" colour="var(--plum)" />
      Your line to the server is lost: the figures stand still. The centre goes on; this page tries again by itself.
    </div>
  );
}

/** Top bar, journey strip, tabs, page. */
export function Frame() {
  const [searching, setSearching] = useState(false);
  const { session, may } = useSession();
  const withStrip = may("see", "floor");
  const stale = useLineState() === "lost";
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
        event.preventDefault();
        setSearching(true);
      }
    };
    window.addEventListener("keydown", listen);
    return () => {
      window.removeEventListener("keydown", listen);
    };
  }, []);
  return (
    <div className={`${styles.frame} ${withStrip ? "" : styles.plain}`}>
      <header className={styles.top}>
        <NavLink to="/" className={styles.brand}>
          <Mark /> Hazeridge
        </NavLink>
        <span className={styles.centre} title={session.centre}>
          {session.centre}
        </span>
        <button className={styles.find} onClick={() => setSearching(true)}>
          Find, go to or create <kbd>Ctrl K</kbd>
        </button>
        <Heartbeat />
        <UserMenu />
      </header>
      {withStrip && <JourneyStrip stale={stale} />}
      <Tabs />
      <div>
        <LostBanner />
        {withStrip && <Banners />}
      </div>
      <main className={styles.page}>
        <Suspense fallback={<Loading what="the page" />}>
          <Outlet />
        </Suspense>
      </main>
      {searching && <Search close={() => setSearching(false)} />}
    </div>
  );
}
