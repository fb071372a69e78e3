"use client";

import { Box, chakra, Flex } from "@chakra-ui/react";
import { Mail } from "lucide-react";
import { useAlerts } from "../data";
import { Link } from "../Link";
import { STATIONS, useHref, useStation } from "../state/view";
import { openCommandBox } from "./CommandBox";
import { ViewerMenu } from "./ViewerMenu";

const StationLink = chakra(Link);

/** The road of stations, from left to right in the order of work. */
export function TopBar({ demo }: { demo: boolean }) {
  const href = useHref();
  const current = useStation();
  const { data } = useAlerts({ state: "raised", limit: "1" });
  const waiting = data ? data.raised.now + data.raised.today + data.raised.week : 0;
  return (
    <Flex
      as="header"
      align="center"
      gap="4"
      h="52px"
      flex="none"
      px="20px"
      borderBottomWidth="1px"
      borderColor="line"
    >
      <StationLink
        href={href("/watch", { scope: "" })}
        display="flex"
        alignItems="center"
        gap="2"
        fontWeight="700"
        fontSize="17px"
        color="ink"
        whiteSpace="nowrap"
      >
        <svg width="20" height="24" viewBox="0 0 20 24" aria-hidden="true">
          <path
            d="M7.2 4.4C7.4 2.6 8.5 1.8 10 1.8s2.6.8 2.8 2.6"
            fill="none"
            stroke="#C48A17"
            strokeWidth="1.6"
          />
          <path
            d="M6.6 4.8h6.8L15.4 20H4.6z"
            fill="#F0B93A"
            stroke="#C48A17"
            strokeWidth="1.6"
            strokeLinejoin="round"
          />
          <path
            d="M10 17.6c-1.9 0-3-1.2-3-2.9 0-2.4 2.2-3.4 3-6.4.8 3 3 4 3 6.4 0 1.7-1.1 2.9-3 2.9z"
            fill="#7A4B00"
          />
          <path d="M3.6 22h12.8" stroke="#C48A17" strokeWidth="2.4" strokeLinecap="round" />
        </svg>
        Barn Lamp
      </StationLink>
      <Flex as="nav" aria-label="Stations" align="center" ml={{ base: "2", xl: "70px" }}>
        {STATIONS.map((station, i) => (
          <Flex key={station.path} align="center">
            {i > 0 && <Box w={{ base: "8px", xl: "22px" }} borderTop="2px dotted" borderColor="line" />}
            <StationLink
              href={href(station.path)}
              aria-current={station === current ? "page" : undefined}
              display="flex"
              alignItems="center"
              gap="2"
              px="4"
              py="1.5"
              borderRadius="full"
              borderWidth="1.5px"
              borderColor={station === current ? "lamp" : "transparent"}
              bg={station === current ? "glow" : "transparent"}
              color={station === current ? "ink" : "soft"}
              fontWeight="600"
              _hover={{ color: "ink", bg: station === current ? "glow" : "sunken" }}
            >
              {station.title}
              {station.path === "/respond" && waiting > 0 && (
                <Box
                  as="span"
                  px="1.5"
                  borderRadius="full"
                  fontSize="12px"
                  bg={data && data.raised.now > 0 ? "nowbg" : "todaybg"}
                  color={data && data.raised.now > 0 ? "now" : "today"}
                  aria-label={`${waiting} alerts wait for a person`}
                >
                  {waiting}
                </Box>
              )}
            </StationLink>
          </Flex>
        ))}
      </Flex>
      <Box flex="1" />
      {demo && (
        <StationLink
          href={href("/demo")}
          display="flex"
          alignItems="center"
          gap="1.5"
          fontSize="13px"
          px="2.5"
          py="1"
          borderRadius="8px"
          border="1.5px dashed"
          borderColor="soft"
          color="soft"
          whiteSpace="nowrap"
          _hover={{ color: "ink" }}
        >
          <Mail size={14} aria-hidden="true" /> Demo world
        </StationLink>
      )}
      <chakra.button
        type="button"
        onClick={openCommandBox}
        display="flex"
        alignItems="center"
        gap="3"
        w={{ base: "190px", xl: "280px" }}
        px="3"
        h="34px"
        borderWidth="1px"
        borderRadius="8px"
        bg="surface"
        color="soft"
        cursor="pointer"
        whiteSpace="nowrap"
        overflow="hidden"
      >
        <Box as="span" flex="1" textAlign="left" overflow="hidden" textOverflow="ellipsis">
          Go to a system, metric, rule…
        </Box>
        <Box as="kbd" fontSize="12px" fontFamily="mono">
          Ctrl K
        </Box>
      </chakra.button>
      <ViewerMenu />
    </Flex>
  );
}
