import { Menu, MenuItem } from "@mui/material";

/** A menu of things that are shown or not, which stays open while they are ticked. */
export function TickMenu({
  at,
  onClose,
  things,
  onTick,
}: {
  at: HTMLElement | null;
  onClose: () => void;
  things: { id: string; title: string; on: boolean; held?: boolean }[];
  onTick: (id: string, on: boolean) => void;
}) {
  return (
    <Menu anchorEl={at} open={Boolean(at)} onClose={onClose} slotProps={{ paper: { sx: { maxHeight: 440 } } }}>
      {things.map((t) => (
        <MenuItem
          key={t.id}
          dense
          role="menuitemcheckbox"
          aria-checked={t.on}
          disabled={t.held}
          onClick={() => onTick(t.id, !t.on)}
        >
          <span className="shown-or-not" aria-hidden>
            {t.on ? "✓" : ""}
          </span>
          {t.title}
        </MenuItem>
      ))}
    </Menu>
  );
}
