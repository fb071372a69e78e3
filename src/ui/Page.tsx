"use client";

import { Box, chakra, Flex, Heading, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Link } from "./Link";

/** The head of a view: its name, a sentence, what can be done. */
export function PageHead(props: {
  title: ReactNode;
  lead?: ReactNode;
  actions?: ReactNode;
  before?: ReactNode;
}) {
  return (
    <Flex justify="space-between" align="flex-start" gap="4" mb="4" wrap="wrap">
      <Flex gap="3" align="center" minW="0">
        {props.before}
        <Box minW="0">
          <Heading as="h1" fontSize="23px" lineHeight="1.2" fontWeight="700">
            {props.title}
          </Heading>
          {props.lead && (
            <Box color="soft" mt="1">
              {props.lead}
            </Box>
          )}
        </Box>
      </Flex>
      {props.actions && (
        <Flex gap="2" wrap="wrap">
          {props.actions}
        </Flex>
      )}
    </Flex>
  );
}

/** A sheet of surface that holds one thing. */
export function Sheet(props: {
  title?: ReactNode;
  aside?: ReactNode;
  children: ReactNode;
  flush?: boolean;
  label?: string;
}) {
  return (
    <Box
      as="section"
      aria-label={props.label}
      bg="surface"
      borderWidth="1px"
      borderColor="line"
      borderRadius="10px"
      overflow="hidden"
    >
      {props.title && (
        <Flex
          justify="space-between"
          align="baseline"
          gap="3"
          px="14px"
          pt="10px"
          pb={props.flush ? "10px" : "4px"}
        >
          <Heading as="h2" fontSize="14.5px" fontWeight="700" lineHeight="1.3">
            {props.title}
          </Heading>
          {props.aside && (
            <Box color="soft" fontSize="13px" textAlign="right">
              {props.aside}
            </Box>
          )}
        </Flex>
      )}
      <Box
        px={props.flush ? 0 : "14px"}
        pb={props.flush ? 0 : "12px"}
        pt={props.title || props.flush ? 0 : "12px"}
      >
        {props.children}
      </Box>
    </Box>
  );
}

/** What a view says when it has nothing to show: why, and what to do next. */
export function Empty({ children }: { children: ReactNode }) {
  return (
    <Box
      borderWidth="1.5px"
      borderStyle="dashed"
      borderColor="line"
      borderRadius="10px"
      p="28px"
      textAlign="center"
      color="soft"
    >
      {children}
    </Box>
  );
}

/** A refusal or failure, told where it happened. */
export function Fault({ children }: { children: ReactNode }) {
  return (
    <Box role="alert" bg="nowbg" color="now" borderRadius="8px" px="12px" py="8px" fontWeight="600">
      {children}
    </Box>
  );
}

const TabLink = chakra(Link);

/** The pages of one station. */
export function Tabs({ tabs, current }: { tabs: { href: string; title: string }[]; current: string }) {
  return (
    <Flex
      as="nav"
      aria-label="Pages of this station"
      gap="5"
      borderBottomWidth="1px"
      borderColor="line"
      mb="4"
    >
      {tabs.map((tab) => (
        <TabLink
          key={tab.title}
          href={tab.href}
          aria-current={tab.title === current ? "page" : undefined}
          pb="1.5"
          fontWeight="600"
          color={tab.title === current ? "ink" : "soft"}
          borderBottomWidth="3px"
          borderColor={tab.title === current ? "lamp" : "transparent"}
          mb="-1px"
        >
          {tab.title}
        </TabLink>
      ))}
    </Flex>
  );
}

export function Note({ children }: { children: ReactNode }) {
  return (
    <Text color="soft" fontSize="13px">
      {children}
    </Text>
  );
}
