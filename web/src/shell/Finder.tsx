import { Command as List } from "cmdk";
import { useNavigate } from "react-router";
import { useState } from "react";
import { useFloor, usePieces } from "../api/hooks";
import { Dialog } from "../ui/parts";
import { useCommandList, type Command } from "./commands";

/** Finds every command of where one is, and parts, pieces and pages by name. */
export function Finder({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} title="Find or do" onClose={onClose}>
      <Found onClose={onClose} />
    </Dialog>
  );
}

/** There only while the dialog is open, so that every search begins empty. */
function Found({ onClose }: { onClose: () => void }) {
  const navigate = useNavigate();
  const floor = useFloor();
  const [text, setText] = useState("");
  const pieces = usePieces("all", text.replace(/\bpiece\b/gi, " ").trim());
  const groups = useCommandList((s) => s.groups);
  const go = (name: string, to: string): Command => ({ name, run: () => void navigate(to) });
  const found: [string, readonly Command[]][] = [
    ...groups,
    [
      "Pieces",
      (pieces.data?.pages[0]?.pieces ?? []).map((p) =>
        go(`${p.partNumber} piece ${p.serial}, ${p.state}`, `/pieces/${p.id}`),
      ),
    ],
    ["Plans", (floor.data?.parts ?? []).map((p) => go(`Plan of ${p.number} ${p.name}`, `/parts/${p.id}/plan`))],
    [
      "Pages",
      [
        go("Floor", "/"),
        go("Reports", "/reports"),
        go("Devices: capture a piece", "/devices"),
        go("Log", "/log"),
        go("Certificate of computation", "/certificate"),
      ],
    ],
  ];
  return (
    <List label="Find or do anything">
      <List.Input
        autoFocus
        value={text}
        onValueChange={setText}
        placeholder="a command, a characteristic, a piece, a page …"
        className="mb-2 h-9 w-full rounded border border-line bg-panel px-2"
      />
      <List.List className="max-h-80 overflow-auto">
        <List.Empty className="p-2 text-soft">Nothing of that name.</List.Empty>
        {found.map(
          ([group, commands]) =>
            commands.length > 0 && (
              <List.Group key={group} heading={group} className="text-soft [&_[cmdk-item]]:text-ink">
                {commands.map((c, i) => (
                  <List.Item
                    key={i}
                    value={`${group} ${c.name}`}
                    disabled={c.disabled}
                    onSelect={() => {
                      onClose();
                      c.run();
                    }}
                    className="flex cursor-pointer justify-between gap-3 rounded px-2 py-1.5 data-[disabled=true]:opacity-45 data-[selected=true]:bg-tint"
                  >
                    {c.name} {c.keys && <kbd className="num text-xs whitespace-nowrap text-soft">{c.keys}</kbd>}
                  </List.Item>
                ))}
              </List.Group>
            ),
        )}
      </List.List>
    </List>
  );
}
