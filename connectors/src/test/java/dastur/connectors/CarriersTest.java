package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.run.Event;
import dastur.core.workflow.Connection;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.net.spi.InetAddressResolver;
import java.net.spi.InetAddressResolver.LookupPolicy;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicReference;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Whatever waits in the operating system or computes for long: everybody else goes on, with one carrier and nothing to make up for it. */
class CarriersTest {
    @TempDir
    Path folder;

    /** In a process of its own, as how many carriers there are is settled once. */
    private String alone(List<String> settings, Class<?> what) throws Exception {
        List<String> command = new ArrayList<>(
                List.of(Path.of(System.getProperty("java.home"), "bin", "java").toString()));
        command.addAll(settings);
        command.addAll(List.of(
                "-cp",
                System.getProperty("surefire.test.class.path", System.getProperty("java.class.path")),
                what.getName(),
                folder.toString()));
        Process process = new ProcessBuilder(command)
                .redirectError(ProcessBuilder.Redirect.DISCARD)
                .start();
        return new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8).strip();
    }

    /** Says whether another virtual thread comes to its turn, and ends with all that it began. */
    private static void lookAround() throws InterruptedException {
        CountDownLatch another = new CountDownLatch(1);
        Thread.startVirtualThread(another::countDown);
        System.out.println(another.await(10, TimeUnit.SECONDS) ? "goes on" : "stands");
        ProcessHandle.current().descendants().forEach(ProcessHandle::destroyForcibly);
        Runtime.getRuntime().halt(0);
    }

    static final class QuietScript {
        public static void main(String[] arguments) throws Exception {
            CountDownLatch begun = new CountDownLatch(1);
            Path folder = Path.of(arguments[0]);
            Thread.startVirtualThread(() -> call(folder, begun));
            begun.await();
            lookAround();
        }

        private static void call(Path folder, CountDownLatch begun) {
            try {
                new ScriptConnector(folder, folder.resolve("copies"))
                        .call(
                                new Event.Call("c", "START", "/quiet", Map.of(), null, null, List.of(), List.of(), 60),
                                new Connection("scripts", "Scripts", "", List.of(), null),
                                null,
                                Listener.hearing(text -> {
                                    if (text.contains("begun")) {
                                        begun.countDown();
                                    }
                                }));
            } catch (Connector.Abandoned e) {
                throw new IllegalStateException(e);
            }
        }
    }

    @Test
    void aScriptThatSaysNothingStopsNobody() throws Exception {
        Path script = Files.writeString(folder.resolve("quiet"), "#!/bin/sh\necho begun\nexec sleep 60\n");
        Files.setPosixFilePermissions(script, PosixFilePermissions.fromString("rwx------"));

        assertThat(alone(
                        List.of(
                                "-Djdk.virtualThreadScheduler.parallelism=1",
                                "-Djdk.virtualThreadScheduler.maxPoolSize=1"),
                        QuietScript.class))
                .isEqualTo("goes on");
    }

    static final class Computing {
        public static void main(String[] arguments) throws Exception {
            Carriers.provide();
            CountDownLatch begun = new CountDownLatch(1);
            Thread.startVirtualThread(() -> {
                begun.countDown();
                // Nothing takes the carrier from one that never waits.
                while (true) {
                    Thread.onSpinWait();
                }
            });
            begun.await();
            lookAround();
        }
    }

    @Test
    void whatComputesForLongStopsNobody() throws Exception {
        assertThat(alone(List.of("-XX:ActiveProcessorCount=1"), Computing.class))
                .isEqualTo("goes on");
    }

    /** A name server that answers as told; whoever waits for one does so in native code. */
    private record Platform(AtomicReference<Thread> asked, boolean fails) implements InetAddressResolver {
        @Override
        public Stream<InetAddress> lookupByName(String host, LookupPolicy policy) throws UnknownHostException {
            asked.set(Thread.currentThread());
            if (fails) {
                throw new UnknownHostException("there is no " + host);
            }
            return Stream.of(InetAddress.getByAddress(new byte[] {(byte) 192, 0, 2, 7}));
        }

        @Override
        public String lookupByAddress(byte[] address) {
            asked.set(Thread.currentThread());
            return "board.example";
        }
    }

    private static <T> T onAVirtualThread(java.util.concurrent.Callable<T> what) throws Exception {
        var task = new java.util.concurrent.FutureTask<>(what);
        Thread.startVirtualThread(task);
        return task.get();
    }

    @Test
    void aNameIsWaitedForOnAThreadOfItsOwn() throws Exception {
        AtomicReference<Thread> asked = new AtomicReference<>();
        var names = new OutwardNames.Guarding(new Platform(asked, false));

        assertThat(onAVirtualThread(() -> names.lookupByName("board.example", LookupPolicy.of(LookupPolicy.IPV4))
                        .toList()))
                .containsExactly(InetAddress.getByAddress(new byte[] {(byte) 192, 0, 2, 7}));
        assertThat(asked.getAndSet(null).isVirtual()).isFalse();
        assertThat(onAVirtualThread(() -> names.lookupByAddress(new byte[] {(byte) 192, 0, 2, 7})))
                .isEqualTo("board.example");
        assertThat(asked.get().isVirtual()).isFalse();
    }

    @Test
    void whatTheNameServerSaysIsSaidInItsOwnWords() {
        var names = new OutwardNames.Guarding(new Platform(new AtomicReference<>(), true));

        assertThatThrownBy(() -> names.lookupByName("board.example", LookupPolicy.of(LookupPolicy.IPV4)))
                .isInstanceOf(UnknownHostException.class)
                .hasMessage("there is no board.example");
    }

    @Test
    void whoIsInterruptedWaitsForNoName() {
        CountDownLatch never = new CountDownLatch(1);
        var names = new OutwardNames.Guarding(new InetAddressResolver() {
            @Override
            public Stream<InetAddress> lookupByName(String host, LookupPolicy policy) throws UnknownHostException {
                try {
                    never.await();
                } catch (InterruptedException e) {
                    throw new UnknownHostException("the look-up itself was interrupted");
                }
                return Stream.of();
            }

            @Override
            public String lookupByAddress(byte[] address) throws UnknownHostException {
                throw new UnknownHostException();
            }
        });
        Thread.currentThread().interrupt();

        assertThatThrownBy(() -> names.lookupByName("board.example", LookupPolicy.of(LookupPolicy.IPV4)))
                .isInstanceOf(UnknownHostException.class)
                .hasMessageContaining("nobody waits for it any more");
        assertThat(Thread.interrupted()).isTrue();
        never.countDown();
    }
}
