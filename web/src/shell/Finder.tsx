import { Command } from "cmdk";
import { useNavigate } from "react-router";
import { useFloor } from "../api/hooks";
import { stations } from "../stage/bench";
import { Dialog } from "../ui/parts";

/** Finds parts, pieces, stations and pages by name. */
export function Finder({ open, onClose }: { open: boolean; onClose: () => void }) {
  const navigate = useNavigate();
  const floor = useFloor();
  const go = (to: string) => {
    onClose();
    void navigate(to);
  };
  const here = /^\/pieces\/([^/]+)/.exec(location.pathname)?.[1];
  const item = "cursor-pointer rounded px-2 py-1.5 data-[selected=true]:bg-tint";
  return (
    <Dialog open={open} title="Find or do" onClose={onClose}>
      <Command label="Find or do anything">
        <Command.Input
          autoFocus
          placeholder="a piece, a page, a station …"
          className="mb-2 h-9 w-full rounded border border-line bg-panel px-2"
        />
        <Command.List className="max-h-80 overflow-auto">
          <Command.Empty className="p-2 text-soft">Nothing of that name.</Command.Empty>
          {here && (
            <Command.Group heading="Stations of this piece">
              {stations.map((s) => (
                <Command.Item
                  key={s.key}
                  value={`station ${s.name}`}
                  onSelect={() => go(`/pieces/${here}/${s.key}`)}
                  className={item}
                >
                  {s.name}
                </Command.Item>
              ))}
            </Command.Group>
          )}
          <Command.Group heading="Pieces">
            {(floor.data?.pieces ?? []).map((p) => (
              <Command.Item
                key={p.id}
                value={`${p.partNumber} piece ${p.serial}`}
                onSelect={() => go(`/pieces/${p.id}`)}
                className={item}
              >
                {p.partNumber} piece {p.serial} <span className="text-soft">{p.state}</span>
              </Command.Item>
            ))}
          </Command.Group>
          <Command.Group heading="Pages">
            {[
              ["Floor", "/"],
              ["Reports", "/reports"],
              ["Devices: capture a piece", "/devices"],
              ["Log", "/log"],
            ].map(([name, to]) => (
              <Command.Item key={to} value={name} onSelect={() => go(to)} className={item}>
                {name}
              </Command.Item>
            ))}
          </Command.Group>
        </Command.List>
      </Command>
    </Dialog>
  );
}
