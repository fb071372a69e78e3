"use client";

import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { ContactSummary } from "@/server/services/contacts";
import { type ApiError, api } from "../api";
import { useContacts } from "../data";
import { Empty, Fault, PageHead, Sheet } from "../Page";
import { RemoveButton } from "../RemoveButton";
import { TextField } from "../TextField";
import { type Column, VirtualTable } from "../VirtualTable";
import { RespondTabs } from "./respondTabs";

/** Who can be told. */
export function Contacts({ initial }: { initial: ContactSummary[] }) {
  const { data: contacts = [] } = useContacts(initial);
  const queries = useQueryClient();
  const [draft, setDraft] = useState({ name: "", email: "" });
  const refresh = () => queries.invalidateQueries({ queryKey: ["contacts"] });
  const add = useMutation<unknown, ApiError>({
    mutationFn: () => api("POST", "/api/v1/contacts", draft),
    onSuccess: () => {
      setDraft({ name: "", email: "" });
      refresh();
    },
  });
  const remove = useMutation<unknown, ApiError, number>({
    mutationFn: (id) => api("DELETE", `/api/v1/contacts/${id}`),
    onSettled: refresh,
  });
  const columns: Column<ContactSummary>[] = [
    { title: "Name", track: "minmax(150px, 1fr)", cell: (contact) => contact.name },
    { title: "Mail address", track: "minmax(180px, 1.2fr)", cell: (contact) => contact.email },
    {
      title: "Told by",
      track: "minmax(200px, 2fr)",
      cell: (contact) =>
        contact.rules.length === 0 ? <Text color="soft">no rule yet</Text> : contact.rules.join(", "),
    },
    {
      title: "",
      track: "90px",
      end: true,
      cell: (contact) => (
        <RemoveButton
          what={contact.name}
          consequence="Nobody is told at this address any more."
          onRemove={() => remove.mutate(contact.id)}
        />
      ),
    },
  ];
  return (
    <>
      <RespondTabs current="Contacts" />
      <PageHead
        title="Contacts"
        lead="Who can be told. A mailing list makes a good contact: people come and go, the address stays."
      />
      <Flex direction="column" gap="14px">
        {remove.error && <Fault>{remove.error.message}</Fault>}
        {contacts.length === 0 ? (
          <Empty>Nobody can be told yet. Add a contact below, then name it in a rule.</Empty>
        ) : (
          <VirtualTable label="Contacts" rows={contacts} columns={columns} keyOf={(contact) => contact.id} />
        )}
        <Sheet title="Add a contact">
          <Grid templateColumns={{ base: "1fr", md: "1fr 1fr auto" }} gap="12px" alignItems="start">
            <TextField
              label="Name"
              value={draft.name}
              onChange={(name) => setDraft({ ...draft, name })}
              error={add.error?.fields.name}
              placeholder="Night watch"
            />
            <TextField
              label="Mail address"
              type="email"
              value={draft.email}
              onChange={(email) => setDraft({ ...draft, email })}
              error={add.error?.fields.email}
            />
            <Box pt={{ md: "26px" }}>
              <Button size="sm" onClick={() => add.mutate()} loading={add.isPending}>
                Add
              </Button>
            </Box>
          </Grid>
          {add.error && Object.keys(add.error.fields).length === 0 && <Fault>{add.error.message}</Fault>}
        </Sheet>
      </Flex>
    </>
  );
}
