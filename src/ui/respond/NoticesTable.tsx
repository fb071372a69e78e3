"use client";

import { Box, Text } from "@chakra-ui/react";
import { formatDuration } from "@/core/units/quantity";
import type { NoticeSummary } from "@/server/services/alerts";
import { useNotices } from "../data";
import { Level } from "../Level";
import { Link } from "../Link";
import { Empty, PageHead } from "../Page";
import { useNow } from "../state/clock";
import { useHref } from "../state/view";
import { Moment } from "../Time";
import { type Column, VirtualTable } from "../VirtualTable";
import { RespondTabs } from "./respondTabs";

/** Who was told what, and what became of each message. */
export function NoticesTable({ scope, initial }: { scope: string; initial: NoticeSummary[] }) {
  const { data: notices = [] } = useNotices(scope, initial);
  const href = useHref();
  const columns: Column<NoticeSummary>[] = [
    { title: "Written", track: "172px", cell: (notice) => <Moment at={notice.createdAt} /> },
    {
      title: "About",
      track: "minmax(200px, 1.8fr)",
      cell: (notice) => (
        <>
          <Link href={href(`/respond/alerts/${notice.alertId}`)}>{notice.ruleName}</Link>
          <Text color="soft" fontSize="12.5px">
            {notice.event === "raised" ? "raised" : "cleared"} on {notice.place}
          </Text>
        </>
      ),
    },
    { title: "Expected", track: "136px", cell: (notice) => <Level level={notice.level} /> },
    {
      title: "To",
      track: "minmax(170px, 1.3fr)",
      cell: (notice) => (
        <>
          {notice.recipient}
          <Text color="soft" fontSize="12.5px" overflowWrap="anywhere">
            {notice.address}
          </Text>
        </>
      ),
    },
    {
      title: "What became of it",
      track: "minmax(180px, 1.6fr)",
      cell: (notice) => <Outcome notice={notice} />,
    },
  ];
  return (
    <>
      <RespondTabs current="Notices" />
      <PageHead title="Notices" lead="Every message that an alert called for, the newest first." />
      {notices.length === 0 ? (
        <Empty>
          Nobody had to be told anything yet. A rule tells its contacts when it raises an alert and when that
          clears.
        </Empty>
      ) : (
        <VirtualTable
          label="Notices"
          rows={notices}
          columns={columns}
          keyOf={(notice) => notice.id}
          rowHeight={58}
        />
      )}
    </>
  );
}

function Outcome({ notice }: { notice: NoticeSummary }) {
  const now = useNow();
  const tries = `${notice.attempts} ${notice.attempts === 1 ? "attempt" : "attempts"}`;
  if (notice.state === "sent")
    return (
      <>
        sent <Moment at={notice.sentAt!} />
        <Text color="soft" fontSize="12.5px">
          {tries}; the server said: {notice.lastDetail}
        </Text>
      </>
    );
  if (notice.state === "sending") return <Box>being sent</Box>;
  return (
    <>
      <Text color="now" fontWeight="600">
        {notice.state === "given-up"
          ? "given up"
          : notice.attempts === 0
            ? "about to be sent"
            : `not sent yet, next try in ${formatDuration(Math.max(0, notice.nextAt - now))}`}
      </Text>
      {notice.lastDetail && (
        <Text color="soft" fontSize="12.5px" overflowWrap="anywhere">
          {tries}: {notice.lastDetail}
        </Text>
      )}
    </>
  );
}
