"use client";

import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { type BoardDefinition, boardDefinition } from "@/core/boards/board";
import type { Board, BoardSummary } from "@/server/services/boards";
import { type ApiError, api } from "../api";
import { Link } from "../Link";
import { Empty, Fault, PageHead, Sheet } from "../Page";
import { useHref } from "../state/view";
import { useViewer } from "../state/viewer";
import { FileField, TextField } from "../TextField";
import { Ago } from "../Time";
import { WatchTabs } from "../watch/WatchTabs";
import { boardPath, useBoards } from "./data";

/** Boards that people made and boards that kits bring; new ones by title, by copy, or from a file. */
export function BoardList({ initial }: { initial: BoardSummary[] }) {
  const { data: boards = [] } = useBoards(initial);
  const href = useHref();
  const router = useRouter();
  const queries = useQueryClient();
  const { name: by } = useViewer();
  const [title, setTitle] = useState("");
  const [read, setRead] = useState<{ definition: BoardDefinition } | { fault: string } | null>(null);
  const make = useMutation<{ name: string }, ApiError, BoardDefinition>({
    mutationFn: (definition) => api("POST", "/api/v1/boards", { definition, by }),
    onSuccess: ({ name }) => {
      queries.invalidateQueries({ queryKey: ["boards"] });
      router.push(href(`/watch/boards/${name}?edit=1`));
    },
  });
  const copy = async (name: string) => {
    const board = await api<Board>("GET", boardPath(name));
    make.mutate({ ...board.definition, title: `${board.definition.title}, copy` });
  };
  const own = boards.filter((board) => board.kit === null);
  return (
    <>
      <WatchTabs current="Boards" />
      <PageHead
        title="Boards"
        lead="Pages of tiles. Scope and time come from around them; what is chosen in one tile, the others follow."
        actions={
          own.length > 1 && (
            <Button asChild size="sm" variant="outline">
              <Link href={`/watch/wall?boards=${own.map((board) => board.name).join(",")}`}>
                Show on a wall
              </Link>
            </Button>
          )
        }
      />
      <Grid templateColumns={{ base: "1fr", lg: "minmax(0,1fr) 330px" }} gap="16px" alignItems="start">
        <Box>
          <Cards title="Made here" boards={own} onCopy={copy} />
          {own.length === 0 && (
            <Empty>
              No board was made yet. Begin with a title at the right, copy one that a kit brings, or put any
              chart on a new board from its menu.
            </Empty>
          )}
          <Box mt="16px">
            <Cards
              title="From the kits"
              boards={boards.filter((board) => board.kit !== null)}
              onCopy={copy}
            />
          </Box>
        </Box>
        <Flex direction="column" gap="12px">
          <Sheet title="New board">
            <form
              onSubmit={(event) => {
                event.preventDefault();
                make.mutate({ title, tiles: [] });
              }}
            >
              <TextField label="Title" value={title} onChange={setTitle} placeholder="Friday sailings" />
              <Button type="submit" size="sm" mt="2" disabled={title.trim() === ""} loading={make.isPending}>
                Make it
              </Button>
            </form>
          </Sheet>
          <Sheet title="From a file">
            <FileField
              label="A board as JSON"
              accept="application/json,.json"
              onChange={async (file) => setRead(file ? readFile(await file.text()) : null)}
            />
            {read && "fault" in read && (
              <Box mt="2">
                <Fault>{read.fault}</Fault>
              </Box>
            )}
            {read && "definition" in read && (
              <Box mt="2">
                <Text mb="2">
                  {read.definition.title}, {read.definition.tiles.length} tiles
                </Text>
                <Button size="sm" onClick={() => make.mutate(read.definition)} loading={make.isPending}>
                  Take it in
                </Button>
              </Box>
            )}
            <Text color="soft" fontSize="13px" mt="2">
              Its shape is in the{" "}
              <a href="/api/board.schema.json" style={{ textDecoration: "underline" }}>
                JSON Schema
              </a>
              .
            </Text>
          </Sheet>
          {make.error && <Fault>{make.error.message}</Fault>}
        </Flex>
      </Grid>
    </>
  );
}

/** A board from a file's text, or what is wrong with it and where. */
function readFile(text: string): { definition: BoardDefinition } | { fault: string } {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    return { fault: `The file is not JSON: ${(error as Error).message}` };
  }
  // The schema's own address, as exports carry it, is no part of the board.
  const { $schema: _, ...rest } = (json ?? {}) as Record<string, unknown>;
  const board = boardDefinition.safeParse(rest);
  if (board.success) return { definition: board.data };
  const [first] = board.error.issues;
  return { fault: `${first.path.join(".") || "The file"}: ${first.message}` };
}

function Cards({
  title,
  boards,
  onCopy,
}: {
  title: string;
  boards: BoardSummary[];
  onCopy(name: string): void;
}) {
  const href = useHref();
  if (boards.length === 0) return null;
  return (
    <Box as="section" aria-label={title}>
      <Text as="h2" fontSize="15px" fontWeight="700" mb="2">
        {title}
      </Text>
      <Grid templateColumns="repeat(auto-fill, minmax(230px, 1fr))" gap="10px">
        {boards.map((board) => (
          <Box
            key={board.name}
            bg="surface"
            borderWidth="1px"
            borderColor="line"
            borderRadius="10px"
            p="12px"
          >
            <Text fontWeight="700" overflowWrap="anywhere">
              <Link href={href(`/watch/boards/${board.name}`)}>{board.title}</Link>
            </Text>
            <Text color="soft" fontSize="13px">
              {board.tiles} {board.tiles === 1 ? "tile" : "tiles"}
              {board.kit && ` · ${board.kit}`}
              {board.updatedAt !== null && (
                <>
                  {" · saved "}
                  <Ago at={board.updatedAt} />
                  {board.updatedBy && ` by ${board.updatedBy}`}
                </>
              )}
            </Text>
            <Button size="2xs" variant="outline" mt="2" onClick={() => onCopy(board.name)}>
              Copy
              <Text as="span" srOnly>
                {" "}
                {board.title}
              </Text>
            </Button>
          </Box>
        ))}
      </Grid>
    </Box>
  );
}
