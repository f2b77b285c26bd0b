import { CircleHelp, Moon, Redo2, Search, Sun, Undo2 } from "lucide-react";
import { useEffect, useState, type ReactNode } from "react";
import { Link, NavLink, useLocation, useNavigate } from "react-router";
import { api, take, type Schemas } from "../api/client";
import { useAction, useMay, usePlanStep } from "../api/hooks";
import { Button, Dialog, Named } from "../ui/parts";
import { PasswordForm } from "../pages/PasswordForm";
import { useCommands } from "./commands";
import { DropFiles } from "./DropFiles";
import { Finder } from "./Finder";
import { Notices } from "./Notices";
import { Shortcuts } from "./Shortcuts";
import { useOpened } from "./title";
import { typing } from "../ui/typing";

const pages = [
  { to: "/", name: "Floor" },
  { to: "/reports", name: "Reports" },
  { to: "/devices", name: "Devices" },
  { to: "/people", name: "People" },
  { to: "/log", name: "Log" },
  { to: "/certificate", name: "Certificate" },
];

export function Shell({ session, children }: { session: Schemas["SessionView"]; children: ReactNode }) {
  const [finding, setFinding] = useState(false);
  const [help, setHelp] = useState(false);
  const [own, setOwn] = useState(false);
  const [theme, setTheme] = useState(document.documentElement.dataset.theme ?? "light");
  const location = useLocation();
  const shown = useOpened((s) => s.opened);
  const opened = /^\/(pieces|parts)\//.test(location.pathname) ? shown : null;
  const undo = usePlanStep(opened?.partId, "undo");
  const redo = usePlanStep(opened?.partId, "redo");
  const signOut = useAction(() => take(api.DELETE("/api/session")), [["session"]]);
  const mayWork = useMay("inspector");
  const plan = mayWork ? opened?.plan : undefined;

  const turnTheme = () => {
    const next = theme === "light" ? "dark" : "light";
    document.documentElement.dataset.theme = next;
    localStorage.setItem("theme", next);
    setTheme(next);
  };
  const navigate = useNavigate();
  useCommands("Plan", [
    ...(opened
      ? [
          {
            name: "Undo the last change of the plan",
            keys: "Ctrl Z",
            disabled: !plan?.canUndo,
            run: () => undo.mutate(plan!.number),
          },
          {
            name: "Redo the change of the plan",
            keys: "Ctrl Shift Z",
            disabled: !plan?.canRedo,
            run: () => redo.mutate(plan!.number),
          },
          { name: "Plan and revisions", run: () => void navigate(`/parts/${opened.partId}/plan`) },
        ]
      : []),
  ]);
  useCommands("Bostel", [
    { name: theme === "light" ? "Dark theme" : "Light theme", run: turnTheme },
    { name: "Shortcuts", keys: "?", run: () => setHelp(true) },
    { name: "Change the password", run: () => setOwn(true) },
    { name: "Sign out", run: () => signOut.mutate(undefined) },
  ]);

  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      const control = e.ctrlKey || e.metaKey;
      if (control && e.key.toLowerCase() === "k") {
        e.preventDefault();
        setFinding(true);
      } else if (control && e.key.toLowerCase() === "z" && plan && !typing(e)) {
        e.preventDefault();
        if (e.shiftKey && plan.canRedo) {
          redo.mutate(plan.number);
        } else if (!e.shiftKey && plan.canUndo) {
          undo.mutate(plan.number);
        }
      } else if (e.key === "?" && !typing(e)) {
        setHelp(true);
      }
    };
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  }, [plan, redo, undo]);

  return (
    <DropFiles className="flex h-full flex-col">
      <header className="flex h-11 shrink-0 items-center gap-3 border-b border-line bg-panel px-3">
        <Link to="/" className="flex items-center gap-2 text-base font-semibold">
          <img src="/mark.svg" alt="" width="22" height="22" /> Bostel
        </Link>
        {opened ? (
          <>
            <span className="num truncate text-soft" data-testid="opened">
              {opened.text}
            </span>
            {location.pathname.startsWith("/pieces/") && (
              <Link
                className="rounded px-2 py-1 whitespace-nowrap underline-offset-2 hover:underline"
                to={`/parts/${opened.partId}/plan`}
              >
                Plan and revisions
              </Link>
            )}
          </>
        ) : (
          <nav className="flex gap-1" aria-label="Pages">
            {pages
              .filter((p) => p.to !== "/people" || session.role === "administrator")
              .map((p) => (
                <NavLink
                  key={p.to}
                  to={p.to}
                  className={({ isActive }) =>
                    `rounded px-2.5 py-1 ${isActive ? "bg-tint font-semibold" : "hover:bg-tint"}`
                  }
                >
                  {p.name}
                </NavLink>
              ))}
          </nav>
        )}
        <button
          type="button"
          onClick={() => setFinding(true)}
          className="ml-auto flex h-7 w-60 items-center gap-2 rounded border border-line bg-page px-2 text-soft"
        >
          <Search size={14} /> find or do anything <kbd className="num ml-auto text-xs">Ctrl K</kbd>
        </button>
        {opened && (
          <>
            <Named name="Undo the last change of the plan" keys="Ctrl Z">
              <Button
                tone="quiet"
                aria-label="Undo the last change of the plan"
                disabled={!plan?.canUndo || undo.isPending}
                onClick={() => undo.mutate(plan!.number)}
              >
                <Undo2 size={16} />
              </Button>
            </Named>
            <Named name="Redo the change of the plan" keys="Ctrl Shift Z">
              <Button
                tone="quiet"
                aria-label="Redo the change of the plan"
                disabled={!plan?.canRedo || redo.isPending}
                onClick={() => redo.mutate(plan!.number)}
              >
                <Redo2 size={16} />
              </Button>
            </Named>
          </>
        )}
        <Button tone="quiet" aria-label={theme === "light" ? "Dark theme" : "Light theme"} onClick={turnTheme}>
          {theme === "light" ? <Moon size={16} /> : <Sun size={16} />}
        </Button>
        <Button tone="quiet" aria-label="Shortcuts" onClick={() => setHelp(true)}>
          <CircleHelp size={16} />
        </Button>
        <Button tone="quiet" title={`Signed in as ${session.user}; change the password`} onClick={() => setOwn(true)}>
          {session.user}
        </Button>
        <Button tone="quiet" title="Ends all open sign-ins of this account" onClick={() => signOut.mutate(undefined)}>
          Sign out
        </Button>
      </header>
      <main className="min-h-0 flex-1">{children}</main>
      <Finder open={finding} onClose={() => setFinding(false)} />
      <Shortcuts open={help} onClose={() => setHelp(false)} />
      {own && (
        <Dialog
          open
          title="Change the password"
          about={`Of ${session.user}, ${session.role}.`}
          onClose={() => setOwn(false)}
        >
          <PasswordForm onDone={() => setOwn(false)} />
        </Dialog>
      )}
      <Notices />
    </DropFiles>
  );
}
