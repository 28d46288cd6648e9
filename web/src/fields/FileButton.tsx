import { Button } from "@mui/material";
import { useRef } from "react";

/** A button that asks for a file; the same file can be chosen again. */
export function FileButton({
  name,
  said,
  accept,
  busy = false,
  contained = false,
  onFile,
}: {
  /** What the button and its input are called. */
  name: string;
  /** What the button says instead, while it works. */
  said?: string;
  accept: string;
  busy?: boolean;
  contained?: boolean;
  onFile: (file: File) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button variant={contained ? "contained" : "outlined"} disabled={busy} onClick={() => input.current?.click()}>
        {said ?? name}
      </Button>
      <input
        ref={input}
        type="file"
        accept={accept}
        hidden
        aria-label={name}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) onFile(file);
        }}
      />
    </>
  );
}
