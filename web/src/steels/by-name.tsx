import { lazy, Suspense, useState } from "react";
import { Button } from "react-bootstrap";

// Looked up now and then only: not in the first load.
const NameSearch = lazy(() => import("./name-search"));

/** Beside a list of steels: chooses one by any name that it has in any standard. */
export function SteelByName({ onChoose }: { onChoose: (key: string) => void }) {
  const [open, setOpen] = useState(false);
  if (!open) {
    return (
      <Button variant="link" onClick={() => setOpen(true)}>
        Steel by another name
      </Button>
    );
  }
  return (
    <Suspense fallback={null}>
      <NameSearch
        onChoose={(key) => {
          if (key) onChoose(key);
          setOpen(false);
        }}
      />
    </Suspense>
  );
}
