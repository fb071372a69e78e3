import java.util.ArrayList;
import java.util.List;

/** Allocates in waves, keeps a little for ever, then waits to be looked at. Made to leave a GC log. */
public class Harbour {
    static final List<byte[]> KEPT = new ArrayList<>();

    public static void main(String[] args) throws Exception {
        long end = System.currentTimeMillis() + Long.parseLong(args[0]) * 1000;
        List<byte[]> wave = new ArrayList<>();
        for (long i = 0; System.currentTimeMillis() < end; i++) {
            wave.add(new byte[2000 + (int) (i % 3000)]);
            if (wave.size() > 6000) wave.clear();
            if (i % 400 == 0) KEPT.add(new byte[4096]);
            if (i % 20 == 0) Thread.sleep(0, 200_000);
            if (i == 60_000) System.gc();
        }
        System.out.println("done");
        Thread.sleep(60_000);
    }
}
