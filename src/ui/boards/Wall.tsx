"use client";

import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useRouter } from "next/navigation";
import { parseAsInteger, useQueryState } from "nuqs";
import { useEffect, useState } from "react";
import type { Board } from "@/server/services/boards";
import { Empty } from "../Page";
import { useNow } from "../state/clock";
import { useTimeFormat } from "../state/timeFormat";
import { useScope, useTimeRange } from "../state/view";
import { BoardGrid } from "./BoardGrid";
import { useBoard } from "./data";

const nothing = () => {};

/** Boards over the whole screen, one after the other, for a wall: they renew themselves and keep the screen awake. */
export function Wall({ boards }: { boards: Board[] }) {
  const [every] = useQueryState("every", parseAsInteger.withDefault(60));
  const [at, setAt] = useState(0);
  const [turning, setTurning] = useState(true);
  const router = useRouter();
  const awake = useWakeLock();
  useEffect(() => {
    if (!turning || boards.length < 2) return;
    const timer = setInterval(
      () => setAt((before) => (before + 1) % boards.length),
      Math.max(5, every) * 1000,
    );
    return () => clearInterval(timer);
  }, [turning, boards.length, every]);
  useEffect(() => {
    const keys = (event: KeyboardEvent) => {
      if (event.key === "ArrowRight") setAt((before) => (before + 1) % boards.length);
      else if (event.key === "ArrowLeft") setAt((before) => (before - 1 + boards.length) % boards.length);
      else if (event.key === "Escape") router.push("/watch/boards");
    };
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  }, [boards.length, router]);
  const { clock } = useTimeFormat();
  const now = useNow();
  const board = boards[at];
  return (
    <Box position="fixed" inset="0" zIndex="30" bg="paper" overflow="auto" p="14px 18px">
      <Flex justify="space-between" align="center" mb="8px" gap="3">
        <Text as="h1" fontSize="22px" fontWeight="700">
          {board?.definition.title ?? "No board"}
        </Text>
        <Flex gap="2" align="center">
          <Text color="soft" className="figure">
            {clock(now)}
            {boards.length > 1 && ` · ${at + 1} of ${boards.length}`}
            {awake && " · screen stays on"}
          </Text>
          {boards.length > 1 && (
            <Button size="xs" variant="outline" onClick={() => setTurning(!turning)}>
              {turning ? "Stop turning" : "Turn on"}
            </Button>
          )}
          <Button size="xs" variant="outline" onClick={() => document.documentElement.requestFullscreen?.()}>
            Full screen
          </Button>
          <Button size="xs" variant="outline" onClick={() => router.push("/watch/boards")}>
            Leave
          </Button>
        </Flex>
      </Flex>
      {board ? (
        <Shown key={board.name} initial={board} />
      ) : (
        <Empty>Name boards to show: /watch/wall?boards=NAME,NAME</Empty>
      )}
    </Box>
  );
}

function Shown({ initial }: { initial: Board }) {
  const { data: board = initial } = useBoard(initial.name, initial);
  const { scope } = useScope();
  const { from, to } = useTimeRange();
  return (
    <BoardGrid
      tiles={board.definition.tiles}
      editing={false}
      focus={null}
      frameScope={scope}
      from={from}
      to={to}
      onFocus={nothing}
      onSelect={nothing}
      onTiles={nothing}
      onChange={nothing}
      onDuplicate={nothing}
      onRemove={nothing}
    />
  );
}

/** Keeps the machine's screen on while the page is looked at (Screen Wake Lock, W3C); false where the browser cannot. */
function useWakeLock(): boolean {
  const [held, setHeld] = useState(false);
  useEffect(() => {
    let lock: WakeLockSentinel | null = null;
    let gone = false;
    const ask = async () => {
      if (document.visibilityState !== "visible" || !("wakeLock" in navigator)) return;
      try {
        lock = await navigator.wakeLock.request("screen");
        if (gone) return lock.release();
        setHeld(true);
        lock.addEventListener("release", () => setHeld(false));
      } catch {
        // Refused, on battery for example: the page says no more than it can hold.
        setHeld(false);
      }
    };
    ask();
    // A hidden page loses the lock; shown again it asks anew.
    document.addEventListener("visibilitychange", ask);
    return () => {
      gone = true;
      document.removeEventListener("visibilitychange", ask);
      lock?.release();
    };
  }, []);
  return held;
}
