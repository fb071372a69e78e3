"use client";

import { Box, Button, Flex, Menu, Portal, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { parseAsBoolean, parseAsString, useQueryState } from "nuqs";
import { useEffect, useState } from "react";
import { type BoardDefinition, freshId, placeBelow, type Tile, type TileContent } from "@/core/boards/board";
import { decodeFocus, encodeFocus, type Focus, following } from "@/core/boards/focus";
import { labelWords } from "@/core/rules/sentence";
import type { Board } from "@/server/services/boards";
import { type ApiError, api } from "../api";
import { Link } from "../Link";
import { Empty, Fault, PageHead } from "../Page";
import { RemoveButton } from "../RemoveButton";
import { saveFile } from "../saveFile";
import { useHref, useScope, useTimeRange } from "../state/view";
import { useViewer } from "../state/viewer";
import { TextField } from "../TextField";
import { Ago } from "../Time";
import { WatchTabs } from "../watch/WatchTabs";
import { BoardGrid } from "./BoardGrid";
import { boardPath } from "./data";
import { Gallery } from "./Gallery";
import { settled } from "./layout";
import { TileSettings } from "./TileSettings";
import { useBoardEditing } from "./useBoardEditing";
import { Versions } from "./Versions";

/** The focus of a board; it lives in the URL. */
export function useFocus() {
  const [word, setWord] = useQueryState("focus", parseAsString.withOptions({ history: "push" }));
  const focus = word === null ? null : decodeFocus(word);
  return { focus, setFocus: (next: Focus | null) => setWord(next && encodeFocus(next)) };
}

/** One board: its tiles, what is in focus, and the way to change it. */
export function BoardPage({ initial }: { initial: Board }) {
  const { name, kit } = initial;
  const board = useBoardEditing(initial);
  const { definition } = board;
  const { scope } = useScope();
  const { from, to, hold } = useTimeRange();
  const { focus, setFocus } = useFocus();
  const [edit, setEdit] = useQueryState("edit", parseAsBoolean.withDefault(false));
  const editing = edit && kit === null;
  const [open, setOpen] = useState<
    { kind: "gallery" } | { kind: "tile"; id: string } | { kind: "versions" } | null
  >(null);
  const router = useRouter();
  const href = useHref();
  const queries = useQueryClient();
  const { name: by } = useViewer();
  const put = (tiles: readonly Tile[]) => {
    if (tiles !== definition.tiles) board.change({ ...definition, tiles: [...tiles] });
  };
  const add = (content: TileContent) => {
    const { tiles } = definition;
    const tile: Tile = { id: freshId(tiles), ...placeBelow(tiles, content.type), content };
    put([...tiles, tile]);
    // A chart without a metric says nothing: its settings come first.
    if (
      content.type === "chart" &&
      content.chart.lines.some((line) => "metric" in line && line.metric === "")
    )
      setOpen({ kind: "tile", id: tile.id });
  };
  const copy = useMutation<{ name: string }, ApiError>({
    mutationFn: () =>
      api("POST", "/api/v1/boards", {
        definition: { ...definition, title: `${definition.title}, copy` },
        by,
      }),
    onSuccess: (made) => {
      queries.invalidateQueries({ queryKey: ["boards"] });
      router.push(href(`/watch/boards/${made.name}?edit=true`));
    },
  });
  const remove = useMutation<unknown, ApiError>({
    mutationFn: () => api("DELETE", boardPath(name)),
    onSuccess: () => {
      queries.invalidateQueries({ queryKey: ["boards"] });
      router.push(href("/watch/boards"));
    },
  });
  const { undo, redo } = board;
  useEffect(() => {
    if (!editing) return;
    const keys = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
      if ((event.target as HTMLElement).closest("input, textarea, select, [role=dialog]")) return;
      event.preventDefault();
      if (event.shiftKey) redo();
      else undo();
    };
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  }, [editing, undo, redo]);
  const edited = open?.kind === "tile" ? definition.tiles.find((tile) => tile.id === open.id) : undefined;
  return (
    <>
      <WatchTabs current="Boards" />
      <PageHead
        title={
          editing ? (
            <Box w="320px">
              <TextField
                label="Title of the board"
                value={definition.title}
                onChange={(title) => board.change({ ...definition, title })}
                error={definition.title.trim() === "" ? "give it a title" : undefined}
              />
            </Box>
          ) : (
            definition.title
          )
        }
        lead={
          kit ? (
            `Comes with the kit ${kit}; copy it to change it.`
          ) : (
            <SaveWords board={board} initial={initial} />
          )
        }
        actions={
          <>
            {editing && (
              <>
                <Button size="sm" onClick={() => setOpen({ kind: "gallery" })}>
                  Add a tile
                </Button>
                <Button size="sm" variant="outline" disabled={!board.canUndo} onClick={board.undo}>
                  Undo
                </Button>
                <Button size="sm" variant="outline" disabled={!board.canRedo} onClick={board.redo}>
                  Redo
                </Button>
              </>
            )}
            {kit === null ? (
              <Button size="sm" variant="outline" onClick={() => setEdit(editing ? null : true)}>
                {editing ? "Done" : "Change"}
              </Button>
            ) : (
              <Button size="sm" onClick={() => copy.mutate()} loading={copy.isPending}>
                Copy it
              </Button>
            )}
            <More
              definition={definition}
              name={name}
              own={kit === null}
              onCopy={() => copy.mutate()}
              onVersions={() => setOpen({ kind: "versions" })}
            />
            {editing && (
              <RemoveButton
                what={definition.title}
                consequence="Its versions go with it."
                onRemove={() => remove.mutate()}
              />
            )}
          </>
        }
      />
      {(copy.error ?? remove.error) && <Fault>{(copy.error ?? remove.error)!.message}</Fault>}
      <Conflict board={board} href={href} />
      <FocusBar focus={focus} tiles={definition.tiles} onClear={() => setFocus(null)} />
      {definition.tiles.length === 0 ? (
        <Empty>
          <Text mb="3">Nothing stands here yet.</Text>
          <Button
            size="sm"
            onClick={() => {
              setEdit(true);
              setOpen({ kind: "gallery" });
            }}
          >
            Add a tile
          </Button>
        </Empty>
      ) : (
        <BoardGrid
          tiles={definition.tiles}
          editing={editing}
          focus={focus}
          frameScope={scope}
          from={from}
          to={to}
          onFocus={setFocus}
          onSelect={hold}
          onTiles={put}
          onChange={(id) => setOpen({ kind: "tile", id })}
          onDuplicate={(tile) => {
            const { tiles } = definition;
            put(settled([...tiles, { ...tile, id: freshId(tiles), y: tile.y + tile.h }]));
          }}
          onRemove={(id) => {
            put(settled(definition.tiles.filter((tile) => tile.id !== id)));
            if (focus?.by === id) setFocus(null);
          }}
        />
      )}
      {open?.kind === "gallery" && <Gallery onChoose={add} close={() => setOpen(null)} />}
      {edited && (
        <TileSettings
          tile={edited}
          scope={scope}
          onSave={(tile) => put(definition.tiles.map((one) => (one.id === tile.id ? tile : one)))}
          close={() => setOpen(null)}
        />
      )}
      {open?.kind === "versions" && (
        <Versions name={name} onTake={(older) => board.change(older)} close={() => setOpen(null)} />
      )}
    </>
  );
}

type Editing = ReturnType<typeof useBoardEditing>;

function SaveWords({ board, initial }: { board: Editing; initial: Board }) {
  switch (board.state.kind) {
    case "saving":
      return "saving …";
    case "failed":
      return (
        <Text as="span" color="now" fontWeight="600" role="alert">
          Not saved: {board.state.message}. Your changes are kept here and tried again.
        </Text>
      );
    case "conflict":
      return "not saved";
    case "saved":
      return (
        <span role="status">
          saved
          {initial.updatedAt !== null && !board.canUndo && (
            <>
              {" "}
              <Ago at={initial.updatedAt} />
              {initial.updatedBy && ` by ${initial.updatedBy}`}
            </>
          )}
        </span>
      );
  }
}

/** Two people changed one board: what happened, and three ways out, none of which loses anything. */
function Conflict({ board, href }: { board: Editing; href: ReturnType<typeof useHref> }) {
  const router = useRouter();
  if (board.state.kind !== "conflict") return null;
  return (
    <Box role="alert" bg="todaybg" borderRadius="8px" p="10px 12px" mb="3">
      <Text fontWeight="600">
        {board.state.message}. Your changes are kept on this page; nothing was overwritten.
      </Text>
      <Flex gap="2" mt="2" wrap="wrap">
        <Button
          size="xs"
          onClick={async () => {
            const copy = await board.keepAsCopy();
            if (copy) router.push(href(`/watch/boards/${copy}?edit=true`));
          }}
        >
          Save mine as a copy
        </Button>
        <Button size="xs" variant="outline" onClick={board.takeTheirs}>
          Take theirs (undo brings mine back)
        </Button>
        <Button size="xs" variant="outline" onClick={board.keepMine}>
          Put mine over theirs (theirs stays among the versions)
        </Button>
      </Flex>
    </Box>
  );
}

/** What is in focus, and how many follow. */
function FocusBar({
  focus,
  tiles,
  onClear,
}: {
  focus: Focus | null;
  tiles: readonly Tile[];
  onClear(): void;
}) {
  if (!focus) return null;
  const standings = tiles.map((tile) => following(tile, focus));
  const count = (standing: string) => standings.filter((one) => one === standing).length;
  const lead = tiles.find((tile) => tile.id === focus.by);
  return (
    <Flex
      role="status"
      align="center"
      gap="10px"
      bg="glow"
      borderRadius="8px"
      px="12px"
      py="6px"
      mb="10px"
      wrap="wrap"
    >
      <Text>
        In focus: <b>{[focus.system, labelWords(focus.labels)].filter(Boolean).join(", ")}</b>
        {!lead && " (chosen in a tile that is gone)"} · {count("follows")} follow
        {count("pinned") > 0 && `, ${count("pinned")} pinned elsewhere`}
      </Text>
      <Button size="2xs" variant="outline" onClick={onClear}>
        Clear the focus
      </Button>
    </Flex>
  );
}

function More(props: {
  definition: BoardDefinition;
  name: string;
  own: boolean;
  onCopy(): void;
  onVersions(): void;
}) {
  const { definition, name, own } = props;
  const router = useRouter();
  const save = () => {
    const file = { $schema: new URL("/api/board.schema.json", location.href).href, ...definition };
    saveFile(new Blob([JSON.stringify(file, null, 2)], { type: "application/json" }), `${name}.board.json`);
  };
  const act: Record<string, () => void> = {
    copy: props.onCopy,
    versions: props.onVersions,
    save,
    wall: () => router.push(`/watch/wall?boards=${name}`),
  };
  return (
    <Menu.Root onSelect={({ value }) => act[value]?.()} lazyMount positioning={{ placement: "bottom-end" }}>
      <Menu.Trigger asChild>
        <Button size="sm" variant="outline">
          More
        </Button>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="surface">
            {own && <Menu.Item value="copy">Copy it</Menu.Item>}
            {own && <Menu.Item value="versions">Earlier versions</Menu.Item>}
            <Menu.Item value="save">Save as JSON</Menu.Item>
            <Menu.Item value="wall">Show on a wall</Menu.Item>
            <Menu.Item value="list" asChild>
              <Link href="/watch/boards">All boards</Link>
            </Menu.Item>
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}
