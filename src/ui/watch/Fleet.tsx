"use client";

import { Box, Button, chakra, Flex, Grid, Heading, Text } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { RESPONSE_LEVELS } from "@/core/rules/rule";
import { formatQuantity } from "@/core/units/quantity";
import type { SystemHeadline } from "@/server/services/headlines";
import type { SystemSummary } from "@/server/services/systems";
import { RunwayRow, useRunways } from "../boards/tiles";
import { type AlertPage, useAlerts, useHeadlines, useSystems } from "../data";
import { useGroups } from "../frame/scopeTree";
import { Lantern } from "../Lantern";
import { Level } from "../Level";
import { Link } from "../Link";
import { Empty, PageHead, Sheet } from "../Page";
import { Sparkline } from "../Sparkline";
import { useHref } from "../state/view";
import { Ago } from "../Time";
import { walkWithArrows } from "../walk";
import { FleetControls, useFleetView } from "./FleetControls";
import { filtered, sectioned } from "./fleetGroups";
import { LanternField, PointedAt } from "./LanternField";
import { WatchTabs } from "./WatchTabs";

const CardLink = chakra(Link);

/** From so many systems on the field of lanterns is what one sees first. */
const FIELD_FROM = 150;

interface Props {
  scope: string;
  /** Left out for everything: the frame knows them. */
  systems?: SystemSummary[];
  alerts: AlertPage;
}

/** Every system in scope, and what waits for a person. */
export function Fleet({ scope, ...initial }: Props) {
  const { data: systems = [] } = useSystems(scope, initial.systems);
  const { data: alerts } = useAlerts({ state: "open", scope }, initial.alerts);
  const { data: headlines = [] } = useHeadlines(scope);
  const { data: groups = [] } = useGroups();
  const href = useHref();
  const byName = useMemo(
    () => new Map(headlines.map((headline) => [headline.system, headline])),
    [headlines],
  );
  const [view] = useFleetView();
  const [pointed, setPointed] = useState<string | null>(null);
  const title = scope.startsWith("group:")
    ? (groups.find((group) => `group:${group.name}` === scope)?.title ?? "Fleet")
    : "Fleet";

  if (systems.length === 0)
    return (
      <>
        <PageHead title={title} />
        <Empty>
          <Text mb="3">Nothing is connected{scope === "" ? " yet" : " in this scope"}.</Text>
          <Button asChild>
            <Link href={href("/collect/add", { scope: "" })}>Add a system</Link>
          </Button>
        </Empty>
      </>
    );

  const shown = filtered(systems, view);
  const as = view.as ?? (systems.length > FIELD_FROM ? "field" : "cards");
  const raised = (alerts?.alerts ?? []).filter((alert) => alert.phase !== "building");
  const dark = systems.filter((system) => system.darkBecause !== null).length;
  const calm = systems.filter((system) => system.state === "calm").length;
  const newest = Math.max(...systems.map((system) => system.newestSampleAt ?? 0));
  return (
    <>
      <WatchTabs current="Fleet" />
      <PageHead
        title={title}
        lead={
          <Flex gap="2" align="center" wrap="wrap">
            {RESPONSE_LEVELS.map((level) => {
              const count = raised.filter((alert) => alert.level === level).length;
              return count > 0 ? <Level key={level} level={level} count={count} /> : null;
            })}
            <span>
              {calm} calm · {dark} dark
              {newest > 0 && (
                <>
                  {" · newest sample "}
                  <Ago at={newest} suffix=" old" />
                </>
              )}
            </span>
          </Flex>
        }
        actions={
          <Button asChild size="sm" variant="outline">
            <Link href={href("/collect/add")}>Add a system</Link>
          </Button>
        }
      />
      <Grid templateColumns={{ base: "1fr", lg: "minmax(0,1fr) 316px" }} gap="24px" alignItems="start">
        <Box onKeyDown={walkWithArrows}>
          <FleetControls systems={systems} as={as} />
          {as === "field" && <PointedAt system={shown.find((one) => one.name === pointed)} />}
          {shown.length === 0 && <Empty>No system in scope fits these choices.</Empty>}
          {sectioned(shown, view.by, groups).map(({ title: section, members }) => (
            <Box as="section" key={section} mb={as === "field" ? "6px" : "18px"} aria-label={section}>
              <Heading as="h2" fontSize="15px" fontWeight="700" mb="2">
                {section}{" "}
                <Text as="span" color="soft" fontWeight="400" fontSize="13px">
                  {members.length} {members.length === 1 ? "system" : "systems"}
                </Text>
              </Heading>
              {as === "field" ? (
                <LanternField systems={members} onPoint={(one) => setPointed(one.name)} />
              ) : (
                <Grid templateColumns="repeat(auto-fill, minmax(206px, 1fr))" gap="10px">
                  {members.map((system) => (
                    <Card key={system.id} system={system} headline={byName.get(system.name)} />
                  ))}
                </Grid>
              )}
            </Box>
          ))}
        </Box>
        <Flex direction="column" gap="14px">
          <Waiting alerts={alerts?.alerts ?? []} />
          <Shortest scope={scope} />
        </Flex>
      </Grid>
    </>
  );
}

function Card({ system, headline }: { system: SystemSummary; headline: SystemHeadline | undefined }) {
  const href = useHref();
  return (
    <CardLink
      href={href("/watch", { scope: system.name })}
      prefetch={false}
      data-walk=""
      display="flex"
      gap="12px"
      p="10px 12px"
      bg="surface"
      color="ink"
      borderWidth="1px"
      borderColor="line"
      borderRadius="10px"
      minH="82px"
      _hover={{ borderColor: "spruce" }}
    >
      <Lantern state={system.state} size={26} />
      <Box minW="0" flex="1">
        <Text fontWeight="700" lineHeight="1.25" overflowWrap="anywhere">
          {system.name}
        </Text>
        {system.darkBecause && (
          <Text color="soft" fontSize="12.5px" lineClamp={2} title={system.darkBecause}>
            {system.darkBecause}
          </Text>
        )}
        <Text color="soft" fontSize="12.5px">
          {system.darkBecause ? "last sample " : `${system.kitTitle}, `}
          {system.newestSampleAt === null ? "never" : <Ago at={system.newestSampleAt} />}
        </Text>
        <Flex gap="1" wrap="wrap">
          {RESPONSE_LEVELS.filter((level) => system.alerts[level] > 0).map((level) => (
            <Level key={level} level={level} count={system.alerts[level]} />
          ))}
        </Flex>
        {headline && !system.darkBecause && (
          <Flex justify="space-between" align="flex-end" gap="2" mt="1">
            <Box fontSize="12.5px" lineHeight="1.25">
              <Text className="figure" fontSize="14px">
                {formatQuantity(headline.value, headline.unit.replace(/^\{[^}]*\}/, "{count}"))}
              </Text>
              <Text color="soft" whiteSpace="nowrap">
                {headline.words}
              </Text>
            </Box>
            <Sparkline values={headline.spark} />
          </Flex>
        )}
      </Box>
    </CardLink>
  );
}

/** What deserves a person, in sentences: what, how much, against what, since when. */
function Waiting({ alerts }: { alerts: AlertPage["alerts"] }) {
  const href = useHref();
  const open = alerts.filter((alert) => alert.phase !== "building");
  const building = alerts.length - open.length;
  return (
    <Sheet title="Waiting for a person" aside={<Link href={href("/respond")}>all alerts</Link>}>
      {open.length === 0 && <Text color="soft">Nobody is needed right now.</Text>}
      {open.slice(0, 7).map((alert) => (
        <Box key={alert.id} py="9px" borderTopWidth="1px" borderColor="line" fontSize="13.5px">
          <Flex justify="space-between" gap="2" align="center" mb="1">
            <Level level={alert.level} />
            <Text color="soft" fontSize="12.5px">
              {alert.phase === "acknowledged" ? `with ${alert.acknowledgedBy}` : "nobody on it"}
            </Text>
          </Flex>
          <Link href={href(`/respond/alerts/${alert.id}`)}>{alert.ruleName}</Link>
          <Text>
            {alert.words.subject}: {alert.words.last}, {alert.words.limit},{" "}
            <Text as="span" color="soft">
              since <Ago at={alert.since} />
            </Text>
          </Text>
        </Box>
      ))}
      {open.length > 7 && <Text color="soft">and {open.length - 7} more</Text>}
      {building > 0 && (
        <Text color="soft" fontSize="13px" pt="2">
          {building} more {building === 1 ? "is" : "are"} building.
        </Text>
      )}
    </Sheet>
  );
}

const RUNWAYS = 4;

/** What will be full first. */
function Shortest({ scope }: { scope: string }) {
  const { data: runways } = useRunways(scope);
  if (!runways || runways.length === 0) return null;
  return (
    <Sheet title="Shortest runways" aside="at the slope of four weeks">
      {runways.slice(0, RUNWAYS).map((runway) => (
        <Box
          key={`${runway.system}${runway.metric}${JSON.stringify(runway.labels)}`}
          borderTopWidth="1px"
          borderColor="line"
        >
          <RunwayRow runway={runway} />
        </Box>
      ))}
    </Sheet>
  );
}
