import { Dialog } from "../ui/parts";

const rows: [string, string][] = [
  ["1 … 7", "go to a station of the path"],
  ["Ctrl K", "find or do anything"],
  ["Ctrl Z, Ctrl Shift Z", "undo and redo changes of the plan"],
  ["↑ ↓ in the ledger", "step through the characteristics; the stage flies to each"],
  ["drag", "turn the part"],
  ["Shift drag or right drag", "move the part"],
  ["wheel", "nearer and farther, at the cursor"],
  ["F", "show everything"],
  ["B, held", "see the scan as it was received, on Prepare"],
  ["right drag while selecting", "turn the part; with Shift move it"],
  ["Shift click on a face", "add the face to the feature"],
  ["Shift click on a rosette disc", "roll the view by 90°"],
  ["↑ ↓ on a limit of the ruler", "move the limit; with Shift ten times as far"],
  ["Esc", "let go of what is picked"],
  ["?", "this sheet"],
];

export function Shortcuts({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} title="Shortcuts" onClose={onClose}>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
        {rows.map(([keys, what]) => (
          <div key={keys} className="col-span-2 grid grid-cols-subgrid border-b border-line/60 pb-1">
            <dt className="num">{keys}</dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  );
}
