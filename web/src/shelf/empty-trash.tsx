import { Button } from "../ui/button";
import { ActionPanel } from "../ui/sentence";
import { useTrash } from "./use-trash";

/** Remove for good what is in the trash, after a second question. */
export function EmptyTrash() {
  const { empty } = useTrash();
  return (
    <ActionPanel label="Empty the trash">
      {(close) => (
        <>
          <p className="mb-2">
            Everything in the trash is removed for good, and cannot be brought back. A picture that a palette
            on the shelf still paints stays.
          </p>
          <Button
            primary
            onClick={() => {
              close();
              void empty();
            }}
          >
            Remove for good
          </Button>
        </>
      )}
    </ActionPanel>
  );
}
