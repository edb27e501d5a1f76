package dastur.server;

import java.io.PrintWriter;
import java.util.concurrent.CountDownLatch;

/** A started application until its process is told to end. */
public final class Running {
    private Running() {}

    /** Says that it is ready, and closes it in order when the process is told to end. */
    public static void untilStopped(Wiring wiring, PrintWriter out) throws InterruptedException {
        CountDownLatch stopped = new CountDownLatch(1);
        Runtime.getRuntime().addShutdownHook(new Thread(() -> {
            wiring.close();
            stopped.countDown();
        }));
        out.println("Dastur is ready at http://localhost:" + wiring.port());
        out.flush();
        stopped.await();
    }
}
