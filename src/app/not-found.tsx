import { Link } from "@/ui/Link";
import { Empty } from "@/ui/Page";

export default function NotFound() {
  return (
    <Empty>
      There is nothing at this address; it may have been removed. <Link href="/watch">Go to the fleet</Link>
    </Empty>
  );
}
