import { useLinked } from "../../bench/context";
import { DropHint } from "../../imports/drop";
import { BeforeAndAfter } from "./before-after";
import { Toolbar } from "./toolbar";

/** The picture that the palette paints: swatches are chosen where they are seen, then named and grouped. */
export function PictureView() {
  const link = useLinked();
  return (
    <>
      <Toolbar />
      {link ? (
        <div className="flex min-h-0 grow flex-col">
          <BeforeAndAfter sides={null} />
        </div>
      ) : (
        <div className="grid grow place-items-center">
          <DropHint
            title="No picture is painted with this palette"
            text="Drop one and choose “Paint it with this palette”, or reduce one of the shelf. Swatches can then be chosen where they are seen."
          />
        </div>
      )}
    </>
  );
}
