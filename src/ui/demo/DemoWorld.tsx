"use client";

import { Box, Button, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { ReceivedMail } from "../../../standins/mailServer";
import type { Weather } from "../../../standins/weather";
import { type ApiError, api } from "../api";
import { Fault, PageHead, Sheet } from "../Page";
import { SelectField } from "../TextField";
import { Ago, Moment } from "../Time";

interface WeatherAnswer {
  kinds: { kind: string; title: string; targets: string[] }[];
  active: Weather[];
}

/** The demo's own controls: faults to let loose, and the mail that was delivered. No part of the product. */
export function DemoWorld() {
  return (
    <>
      <PageHead
        title="Demo world"
        lead="Skerry Line does not exist. Here its weather is made, and here its mail arrives; nothing leaves this machine."
      />
      <Grid templateColumns={{ base: "1fr", lg: "340px minmax(0, 1fr)" }} gap="14px" alignItems="start">
        <WeatherControl />
        <MailTray />
      </Grid>
    </>
  );
}

function WeatherControl() {
  const queries = useQueryClient();
  const { data, error } = useQuery<WeatherAnswer, ApiError>({
    queryKey: ["demo", "weather"],
    queryFn: () => api("GET", "/api/demo/weather"),
    refetchInterval: 5000,
  });
  const [kind, setKind] = useState("cpu-storm");
  const [target, setTarget] = useState("");
  const refresh = () => queries.invalidateQueries({ queryKey: ["demo"] });
  const targets = data?.kinds.find((candidate) => candidate.kind === kind)?.targets ?? [];
  const chosen = targets.includes(target) ? target : (targets[0] ?? "");
  const start = useMutation<unknown, ApiError>({
    mutationFn: () => api("POST", "/api/demo/weather", { kind, target: chosen }),
    onSettled: refresh,
  });
  const end = useMutation<unknown, ApiError, number>({
    mutationFn: (id) => api("DELETE", `/api/demo/weather/${id}`),
    onSettled: refresh,
  });
  if (error) return <Fault>The stand-ins do not answer: {error.message}</Fault>;
  if (!data) return <Sheet title="Weather">Asking the stand-ins.</Sheet>;
  return (
    <Sheet title="Weather">
      <Flex direction="column" gap="11px">
        <SelectField
          label="Fault"
          value={kind}
          onChange={setKind}
          options={data.kinds.map((one): [string, string] => [one.kind, one.title])}
        />
        <SelectField
          label="Where"
          value={chosen}
          onChange={setTarget}
          options={targets.map((one): [string, string] => [one, one])}
        />
        <Button size="sm" alignSelf="flex-start" onClick={() => start.mutate()} loading={start.isPending}>
          Let it loose
        </Button>
        {start.error && <Fault>{start.error.message}</Fault>}
        <Box borderTopWidth="1px" borderColor="line" pt="10px">
          {data.active.length === 0 && <Text color="soft">Fair weather everywhere.</Text>}
          {data.active.map((weather) => (
            <Flex key={weather.id} justify="space-between" align="center" gap="2" py="4px">
              <Text>
                {weather.kind} on {weather.target}, <Ago at={weather.since} />
              </Text>
              <Button
                size="xs"
                variant="outline"
                onClick={() => end.mutate(weather.id)}
                aria-label={`End ${weather.kind} on ${weather.target}`}
              >
                End it
              </Button>
            </Flex>
          ))}
        </Box>
      </Flex>
    </Sheet>
  );
}

function MailTray() {
  const queries = useQueryClient();
  const [open, setOpen] = useState<number | null>(null);
  const { data: mails = [] } = useQuery({
    queryKey: ["demo", "mail"],
    queryFn: () => api<{ mails: ReceivedMail[] }>("GET", "/api/demo/mail").then((answer) => answer.mails),
    refetchInterval: 2000,
  });
  const empty = useMutation({
    mutationFn: () => api("DELETE", "/api/demo/mail"),
    onSettled: () => queries.invalidateQueries({ queryKey: ["demo"] }),
  });
  return (
    <Sheet
      title={`Mail tray, ${mails.length} delivered`}
      aside={
        mails.length > 0 && (
          <Button size="xs" variant="ghost" onClick={() => empty.mutate()}>
            Empty the tray
          </Button>
        )
      }
    >
      {mails.length === 0 && (
        <Text color="soft">
          No mail yet. Let a fault loose that a rule watches, and wait for its hold to pass.
        </Text>
      )}
      {mails.slice(0, 100).map((mail) => (
        <Box key={mail.id} borderTopWidth="1px" borderColor="line">
          <chakra.button
            type="button"
            display="block"
            w="100%"
            textAlign="left"
            py="7px"
            cursor="pointer"
            aria-expanded={open === mail.id}
            onClick={() => setOpen(open === mail.id ? null : mail.id)}
          >
            <Text fontWeight="600">{mail.subject}</Text>
            <Text color="soft" fontSize="12.5px">
              to {mail.to}, <Moment at={mail.receivedAt} />
            </Text>
          </chakra.button>
          {open === mail.id && (
            <chakra.pre
              fontFamily="mono"
              fontSize="12.5px"
              whiteSpace="pre-wrap"
              bg="sunken"
              p="10px"
              mb="8px"
              borderRadius="6px"
            >
              {mail.text}
            </chakra.pre>
          )}
        </Box>
      ))}
    </Sheet>
  );
}
