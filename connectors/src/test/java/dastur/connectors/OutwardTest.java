package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.junit.jupiter.api.Assumptions.assumeTrue;
import static org.mockito.Mockito.mock;

import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import java.net.InetAddress;
import java.net.URI;
import java.net.UnknownHostException;
import java.net.spi.InetAddressResolver;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** M10: whoever runs the names of an outside system leads nothing of ours to this machine, or to what only it reaches. */
class OutwardTest {
    @ParameterizedTest
    @CsvSource({
        "127.0.0.1,true",
        "127.200.3.4,true",
        "::1,true",
        "0.0.0.0,true",
        "0.1.2.3,true",
        "::,true",
        "169.254.169.254,true",
        "fe80::1,true",
        "224.0.0.251,true",
        "ff02::1,true",
        "::ffff:127.0.0.1,true",
        "10.0.0.1,false",
        "192.168.1.1,false",
        "172.16.0.1,false",
        "8.8.8.8,false",
        "fd00::1,false",
        "2001:db8::1,false"
    })
    void whereNoNameLeads(String address, boolean forbidden) throws UnknownHostException {
        assertThat(Outward.isForbidden(InetAddress.getByName(address))).isEqualTo(forbidden);
    }

    @ParameterizedTest
    @CsvSource({"127.0.0.1", "localhost", "LOCALHOST", "2130706433", "127.1", "[::1]", "169.254.169.254", "10.0.0.1"})
    void whatIsWrittenAsAnAddressIsMeant(String host) {
        assertThatCode(() -> Outward.check(host, List.of(host))).doesNotThrowAnyException();
    }

    /** A process that guards a name before it has ever looked it up, and then looks. */
    public static final class Looks {
        private Looks() {}

        public static void main(String[] arguments) {
            Outward.guard(arguments[0], Set.of());
            try {
                System.out.print(InetAddress.getByName(arguments[0]));
            } catch (UnknownHostException e) {
                System.out.print("not found");
            }
        }
    }

    /** The platform asks our resolver, whoever looks. In a process of its own, since names that were found before are remembered. */
    @Test
    void theWholeProcessFindsThisMachineNoMoreByAGuardedName() throws Exception {
        Process process = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-cp",
                        System.getProperty("surefire.test.class.path", System.getProperty("java.class.path")),
                        Looks.class.getName(),
                        nameThatLeadsHere())
                .redirectError(ProcessBuilder.Redirect.DISCARD)
                .start();
        assertThat(new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8))
                .isEqualTo("not found");
    }

    /** Looked for once, before any test has guarded it: the platform remembers what it found for seconds only. */
    private static final Optional<String> LEADS_HERE = leadingHere();

    private static Optional<String> leadingHere() {
        String own;
        try {
            own = InetAddress.getLocalHost().getHostName();
        } catch (UnknownHostException e) {
            own = "ip6-localhost";
        }
        return Stream.of(own, "ip6-localhost").filter(OutwardTest::leadsHere).findFirst();
    }

    private static String nameThatLeadsHere() {
        assumeTrue(LEADS_HERE.isPresent(), "this machine has a name of its own that leads to itself");
        return LEADS_HERE.get();
    }

    /** The first answer is fine and the second one leads here: what opens the connection sees only what is permitted. */
    @Test
    void aNameThatChangesBetweenTwoLooksGainsNothing() throws Exception {
        InetAddress outside = InetAddress.getByName("198.51.100.7");
        InetAddress here = InetAddress.getByName("127.0.0.1");
        InetAddress keys = InetAddress.getByName("169.254.169.254");
        Outward.check("changing.invalid", List.of("changing.invalid"));
        var resolver = new OutwardNames.Guarding(new Says(outside, here, keys));
        assertThat(resolver.lookupByName("changing.invalid", null)).containsExactly(outside);
        assertThat(resolver.lookupByName("CHANGING.invalid", null)).containsExactly(outside);
        var turned = new OutwardNames.Guarding(new Says(here, keys));
        assertThatThrownBy(() -> turned.lookupByName("changing.invalid", null))
                .isInstanceOf(UnknownHostException.class)
                .hasMessageContaining("may not lead to");
        assertThat(turned.lookupByName("of-nobody-asked.invalid", null))
                .as("names that no connection speaks to are left alone")
                .containsExactly(here, keys);
    }

    @Test
    void anAddressThatAnAdministratorWroteDownIsPermittedAndNoOther() throws Exception {
        InetAddress here = InetAddress.getByName("127.0.0.1");
        InetAddress keys = InetAddress.getByName("169.254.169.254");
        Connection connection = new Connection(
                "own", "Own", "https://own.invalid", List.of("127.0.0.1:8443", "other.invalid:443"), null);
        Outward.check(connection, "own.invalid");
        var resolver = new OutwardNames.Guarding(new Says(here, keys));
        assertThat(resolver.lookupByName("own.invalid", null)).containsExactly(here);
        // Another connection to the same name that permits nothing does not break the first one.
        Outward.check("own.invalid", List.of("own.invalid"));
        assertThat(resolver.lookupByName("own.invalid", null)).containsExactly(here);
    }

    /** What was looked up before it was guarded is remembered by the platform: the look before each call refuses it. */
    @Test
    void nothingIsSentToANameThatLeadsHereAndItIsSaidWhy() throws Exception {
        String name = nameThatLeadsHere();
        try (Connectors connectors = new Connectors()) {
            for (String base : List.of("http://%s:9", "ldap://%s:9/dc=x?tls=none", "dns://%s:9")) {
                CallOutcome outcome = connectors.call(
                        new Event.Call("c", "GET", "/", Map.of(), null, null, List.of(), List.of(), 5),
                        new Connection("c", "The machine", base.formatted(name), List.of(), null),
                        null,
                        mock(Connector.Heartbeat.class));
                assertThat(outcome).as(base).isInstanceOfSatisfying(CallOutcome.Fault.class, f -> {
                    assertThat(f.sent()).isFalse();
                    assertThat(f.why()).contains("this machine or its own network");
                });
            }
            Posting posting = new Posting(java.net.http.HttpClient.newHttpClient());
            assertThatThrownBy(() -> posting.post(URI.create("http://" + name + ":9/x"), "{}", "k", null))
                    .isInstanceOf(Posting.NotTaken.class)
                    .hasMessageContaining("this machine or its own network");
        }
    }

    private static boolean leadsHere(String name) {
        try {
            return Stream.of(InetAddress.getAllByName(name)).anyMatch(Outward::isForbidden);
        } catch (UnknownHostException e) {
            return false;
        }
    }

    private record Says(List<InetAddress> addresses) implements InetAddressResolver {
        Says(InetAddress... addresses) {
            this(List.of(addresses));
        }

        @Override
        public Stream<InetAddress> lookupByName(String host, LookupPolicy policy) {
            return addresses.stream();
        }

        @Override
        public String lookupByAddress(byte[] address) throws UnknownHostException {
            throw new UnknownHostException();
        }
    }
}
