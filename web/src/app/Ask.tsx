import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useState } from "react";
import { create } from "zustand";

interface Asked {
  title: string;
  /** What is to be said more of it. */
  more?: string;
  /** What stands in the box at first; without it nothing is to be typed. */
  value?: string;
  /** What the button says that goes on. */
  act: string;
  answer: (value: string | null) => void;
}

const useAsked = create<{ asked: Asked | null }>()(() => ({ asked: null }));

function ask(asked: Omit<Asked, "answer">): Promise<string | null> {
  return new Promise((done) => {
    const answer = (value: string | null) => {
      useAsked.setState({ asked: null });
      done(value);
    };
    useAsked.setState({ asked: { ...asked, answer } });
  });
}

/** Asks for a name; null where it stays as it is. */
export async function askName(title: string, value: string): Promise<string | null> {
  const name = (await ask({ title, value, act: "Rename" }))?.trim();
  return name && name !== value ? name : null;
}

/** Asks before something is done that cannot be undone. */
export const askFirst = async (title: string, more: string, act: string) => (await ask({ title, more, act })) !== null;

/** The question that is asked now. */
export function Ask() {
  const asked = useAsked((s) => s.asked);
  return asked && <Question key={asked.title} {...asked} />;
}

function Question({ title, more, value, act, answer }: Asked) {
  const [text, setText] = useState(value ?? "");
  const named = value !== undefined;
  return (
    <Dialog open onClose={() => answer(null)} fullWidth maxWidth="xs" slotProps={{ paper: { "aria-label": title } }}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          answer(text);
        }}
      >
        <DialogTitle style={{ overflowWrap: "anywhere" }}>{title}</DialogTitle>
        <DialogContent>
          {more}
          {named && (
            <TextField
              autoFocus
              fullWidth
              size="small"
              value={text}
              onFocus={(e) => e.target.select()}
              onChange={(e) => setText(e.target.value)}
              slotProps={{ htmlInput: { "aria-label": title, maxLength: 120 } }}
            />
          )}
        </DialogContent>
        <DialogActions>
          <Button autoFocus={!named} onClick={() => answer(null)}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" disabled={named && !text.trim()}>
            {act}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
