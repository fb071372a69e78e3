"use client";

import { Button, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useState } from "react";
import type { ChartSpec } from "@/core/charts/spec";
import { type ApiError, api } from "../api";
import { Modal } from "../Modal";
import { Fault } from "../Page";
import { useHref } from "../state/view";
import { useViewer } from "../state/viewer";
import { SelectField, TextField } from "../TextField";
import { boardPath, useBoards } from "./data";

/** Puts a chart on a board that is there, or on a new one. */
export function PutOnBoard({ chart, scope, close }: { chart: ChartSpec; scope: string; close(): void }) {
  const { data: boards = [] } = useBoards();
  const own = boards.filter((board) => board.kit === null);
  const [chosen, setChosen] = useState("");
  const [title, setTitle] = useState("");
  const [pinned, setPinned] = useState("follow");
  const queries = useQueryClient();
  const router = useRouter();
  const href = useHref();
  const { name: by } = useViewer();
  const put = useMutation<string, ApiError>({
    mutationFn: async () => {
      const board =
        chosen ||
        (
          await api<{ name: string }>("POST", "/api/v1/boards", {
            definition: { title: title.trim() || "My board", tiles: [] },
            by,
          })
        ).name;
      await api("POST", boardPath(board, "/tiles"), {
        content: { type: "chart", chart },
        ...(pinned === "pin" ? { scope } : {}),
        by,
      });
      return board;
    },
    onSuccess: (board) => {
      queries.invalidateQueries({ queryKey: ["boards"] });
      queries.invalidateQueries({ queryKey: ["board", board] });
      router.push(href(`/watch/boards/${board}`));
    },
  });
  return (
    <Modal
      title="Put on a board"
      size="sm"
      close={close}
      footer={
        <>
          <Button size="sm" variant="outline" onClick={close}>
            Leave it
          </Button>
          <Button size="sm" loading={put.isPending} onClick={() => put.mutate()}>
            Put it there
          </Button>
        </>
      }
    >
      <Flex direction="column" gap="3">
        <SelectField
          label="Board"
          value={chosen}
          onChange={setChosen}
          options={[["", "a new board"], ...own.map((board): [string, string] => [board.name, board.title])]}
        />
        {chosen === "" && <TextField label="Title of the new board" value={title} onChange={setTitle} />}
        {scope !== "" && (
          <SelectField
            label="It shows"
            value={pinned}
            onChange={setPinned}
            options={[
              ["follow", "whatever is in scope or in focus there"],
              ["pin", `always ${scope.replace(/^group:/, "the group ")}`],
            ]}
          />
        )}
        {put.error && <Fault>{put.error.message}</Fault>}
        <Text color="soft" fontSize="13px">
          It lands below what is there; drag it to its place then.
        </Text>
      </Flex>
    </Modal>
  );
}
