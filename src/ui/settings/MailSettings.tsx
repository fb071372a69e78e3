"use client";

import { Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import type { MailSettings as Settings } from "@/server/services/settings";
import { type ApiError, api } from "../api";
import { Fault, PageHead, Sheet } from "../Page";
import { SelectField, TextField } from "../TextField";

/** How notices leave: the mail server, and a test of it. */
export function MailSettings({ initial }: { initial: (Settings & { hasPassword: boolean }) | null }) {
  const [form, setForm] = useState({
    host: initial?.host ?? "",
    port: String(initial?.port ?? 587),
    security: initial?.security ?? "starttls",
    user: initial?.user ?? "",
    password: "",
    from: initial?.from ?? "",
    publicUrl: initial?.publicUrl ?? "",
  });
  const [to, setTo] = useState("");
  const save = useMutation<unknown, ApiError>({
    mutationFn: () => {
      const { password, port, ...rest } = form;
      return api("PUT", "/api/v1/settings/mail", {
        ...rest,
        port: Number(port),
        ...(password === "" ? {} : { password }),
      });
    },
  });
  const test = useMutation<{ ok: boolean; detail: string }, ApiError>({
    mutationFn: () => api("POST", "/api/v1/settings/mail/test", { to }),
  });
  const faults = save.error?.fields ?? {};
  const set = (part: Partial<typeof form>) => {
    setForm({ ...form, ...part });
    save.reset();
  };
  return (
    <Flex direction="column" gap="14px" maxW="760px">
      <PageHead
        title="Mail settings"
        lead="Notices leave by mail. The password is stored encrypted and never shown again."
      />
      <Sheet title="Mail server">
        <Grid templateColumns={{ base: "1fr", md: "1fr 1fr" }} gap="12px" alignItems="start">
          <TextField label="Host" value={form.host} onChange={(host) => set({ host })} error={faults.host} />
          <TextField label="Port" value={form.port} onChange={(port) => set({ port })} error={faults.port} />
          <SelectField
            label="Security"
            value={form.security}
            onChange={(security) => set({ security: security as Settings["security"] })}
            options={[
              ["starttls", "STARTTLS, required"],
              ["tls", "TLS from the start"],
              ["none", "none, for a relay on this machine"],
            ]}
          />
          <TextField
            label="User"
            value={form.user}
            onChange={(user) => set({ user })}
            error={faults.user}
            help="Empty where the server asks for none."
          />
          <TextField
            label="Password"
            type="password"
            value={form.password}
            onChange={(password) => set({ password })}
            error={faults.password}
            help={initial?.hasPassword ? "One is stored; left empty, it stays." : undefined}
          />
          <TextField
            label="Sender"
            type="email"
            value={form.from}
            onChange={(from) => set({ from })}
            error={faults.from}
          />
          <TextField
            label="Address of Barn Lamp"
            value={form.publicUrl}
            onChange={(publicUrl) => set({ publicUrl })}
            error={faults.publicUrl}
            help="Links in mails lead here."
          />
        </Grid>
        <Flex mt="12px" gap="3" align="center">
          <Button size="sm" onClick={() => save.mutate()} loading={save.isPending}>
            Save
          </Button>
          {save.isSuccess && (
            <Text color="calm" fontWeight="600" role="status">
              Saved.
            </Text>
          )}
          {save.error && Object.keys(faults).length === 0 && <Fault>{save.error.message}</Fault>}
        </Flex>
      </Sheet>
      <Sheet title="Send a test mail with what is saved">
        <Flex gap="12px" align="flex-end">
          <TextField label="To" type="email" value={to} onChange={setTo} error={test.error?.fields.to} />
          <Button size="sm" variant="outline" onClick={() => test.mutate()} loading={test.isPending}>
            Send
          </Button>
        </Flex>
        {test.data && (
          <Text mt="2" role="status" color={test.data.ok ? "calm" : "now"} fontWeight="600">
            {test.data.ok ? "The server took it: " : "Not sent: "}
            {test.data.detail}
          </Text>
        )}
      </Sheet>
    </Flex>
  );
}
