"use client";

import { Box, Button, Code, Flex, Grid, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { TokenSummary } from "@/server/services/tokens";
import { type ApiError, api } from "../api";
import { Empty, Fault, Note, PageHead, Sheet } from "../Page";
import { RemoveButton } from "../RemoveButton";
import { TextField } from "../TextField";
import { Ago, Moment } from "../Time";
import { type Column, VirtualTable } from "../VirtualTable";
import { CollectTabs } from "./CollectTabs";

/** Systems that send by themselves: the address, and the tokens that let them. */
export function Tokens({ initial, address }: { initial: TokenSummary[]; address: string }) {
  const queries = useQueryClient();
  const { data: tokens = [] } = useQuery({
    queryKey: ["tokens"],
    queryFn: () => api<{ tokens: TokenSummary[] }>("GET", "/api/v1/tokens").then((answer) => answer.tokens),
    initialData: initial,
    refetchInterval: 20_000,
  });
  const [name, setName] = useState("");
  const [points, setPoints] = useState("600000");
  const add = useMutation<{ token: string }, ApiError>({
    mutationFn: () => api("POST", "/api/v1/tokens", { name, pointsAMinute: Number(points) }),
    onSuccess: () => {
      setName("");
      queries.invalidateQueries({ queryKey: ["tokens"] });
    },
  });
  const revoke = useMutation<unknown, ApiError, number>({
    mutationFn: (id) => api("DELETE", `/api/v1/tokens/${id}`),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["tokens"] }),
  });
  const columns: Column<TokenSummary>[] = [
    { title: "Token", track: "minmax(160px, 2fr)", cell: (token) => token.name },
    {
      title: "Points a minute",
      track: "130px",
      end: true,
      cell: (token) => <span className="figure">{token.pointsAMinute.toLocaleString("en")}</span>,
    },
    { title: "Made", track: "170px", cell: (token) => <Moment at={token.createdAt} /> },
    {
      title: "Last used",
      track: "140px",
      cell: (token) =>
        token.revokedAt !== null ? (
          <Text color="soft">revoked</Text>
        ) : token.lastUsedAt === null ? (
          <Text color="soft">never</Text>
        ) : (
          <Ago at={token.lastUsedAt} />
        ),
    },
    {
      title: "",
      track: "100px",
      end: true,
      cell: (token) =>
        token.revokedAt === null && (
          <RemoveButton
            what={`token ${token.name}`}
            consequence="Who sends with it is refused from now on."
            onRemove={() => revoke.mutate(token.id)}
          />
        ),
    },
  ];
  return (
    <>
      <PageHead
        title="Push"
        lead="Systems that send their metrics by themselves, with an OpenTelemetry exporter."
      />
      <CollectTabs current="Push" />
      <Flex direction="column" gap="14px">
        <Sheet title="Where to send">
          <Text mb="2">
            Set these where the system runs; every OpenTelemetry SDK reads them. Its service.name becomes the
            system's name.
          </Text>
          <Box
            as="pre"
            bg="sunken"
            borderRadius="8px"
            p="10px 14px"
            fontFamily="mono"
            fontSize="13px"
            overflowX="auto"
            tabIndex={0}
            aria-label="Settings of the exporter"
          >
            {`OTEL_EXPORTER_OTLP_METRICS_ENDPOINT=${address}/v1/metrics
OTEL_EXPORTER_OTLP_METRICS_PROTOCOL=http/protobuf
OTEL_EXPORTER_OTLP_HEADERS=Authorization=Bearer%20TOKEN`}
          </Box>
          <Note>
            Protobuf and JSON, with or without gzip. A sender that is too fast, or a store that is busy, is
            told to come again.
          </Note>
        </Sheet>
        <Sheet title="New token">
          <Grid templateColumns={{ base: "1fr", md: "1fr 200px auto" }} gap="12px" alignItems="end">
            <TextField
              label="Name"
              value={name}
              onChange={setName}
              placeholder="boarding services"
              error={add.error?.fields.name}
            />
            <TextField
              label="Points a minute at most"
              value={points}
              onChange={setPoints}
              error={add.error?.fields.pointsAMinute}
            />
            <Button
              size="sm"
              onClick={() => add.mutate()}
              loading={add.isPending}
              disabled={name.trim() === ""}
            >
              Make it
            </Button>
          </Grid>
          {add.data && (
            <Box mt="3" role="status">
              <Text fontWeight="600">Copy it now; it is not shown again:</Text>
              <Code fontSize="14px" p="6px 10px">
                {add.data.token}
              </Code>
            </Box>
          )}
          {add.error && Object.keys(add.error.fields).length === 0 && <Fault>{add.error.message}</Fault>}
        </Sheet>
        {tokens.length === 0 ? (
          <Empty>
            No token yet. Make one for each sender, so that one can be revoked without the others.
          </Empty>
        ) : (
          <VirtualTable label="Tokens" rows={tokens} columns={columns} keyOf={(token) => token.id} />
        )}
      </Flex>
    </>
  );
}
