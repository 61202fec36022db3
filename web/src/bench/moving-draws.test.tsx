import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, memo } from "react";
import { createRoot } from "react-dom/client";
import { expect, it } from "vitest";
import { type Bench, BenchContext } from "./context";
import { Moving, useCarry, useMovable } from "./moving";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

const drawn: number[] = [];

const Cell = memo(function Cell({ index }: { index: number }) {
  const { ref, listeners } = useMovable(`s${index}`, index);
  drawn.push(index);
  return <span ref={ref} {...listeners} />;
});

function Box() {
  const carry = useCarry();
  return (
    <Moving shown={[]} carry={carry} onMove={() => undefined}>
      <Cell index={0} />
      <Cell index={1} />
    </Moving>
  );
}

it("draws no cell again because the box around it is drawn", () => {
  const root = createRoot(document.body.appendChild(document.createElement("div")));
  const draw = () =>
    act(() =>
      root.render(
        <QueryClientProvider client={new QueryClient()}>
          <BenchContext value={{ id: "p" } as unknown as Bench}>
            <Box />
          </BenchContext>
        </QueryClientProvider>,
      ),
    );
  draw();
  drawn.length = 0;
  draw();
  draw();
  expect(drawn).toEqual([]);
  act(() => root.unmount());
});
