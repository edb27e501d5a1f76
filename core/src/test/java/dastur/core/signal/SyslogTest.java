package dastur.core.signal;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.net.InetAddress;
import java.net.UnknownHostException;
import java.util.Map;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Lines of RFC 5424, with the examples that it gives in its section 6.5; and where they may come from. */
class SyslogTest {
    @Test
    void theExamplesOfTheStandardAreRead() throws Envelope.Unreadable {
        assertThat(
                        Syslog.read(
                                "<34>1 2003-10-11T22:14:15.003Z mymachine.example.com su - ID47 - \ufeff'su root' failed for lonvick on /dev/pts/8"))
                .isEqualTo(Map.of(
                        "facility", 4,
                        "severity", 2,
                        "level", "critical",
                        "time", "2003-10-11T22:14:15.003Z",
                        "host", "mymachine.example.com",
                        "app", "su",
                        "message", "ID47",
                        "text", "'su root' failed for lonvick on /dev/pts/8"));
        Map<String, Object> both = Syslog.read(
                "<165>1 2003-08-24T05:14:15.000003-07:00 192.0.2.1 myproc 8710 - - %% It's time to make the do-nuts.");
        assertThat(both).containsEntry("time", "2003-08-24T12:14:15.000003Z").containsEntry("process", "8710");
        Map<String, Object> data = Syslog.read(
                "<165>1 2003-10-11T22:14:15.003Z mymachine.example.com evntslog - ID47 [exampleSDID@32473 iut=\"3\" eventSource=\"Application\" eventID=\"1011\"][examplePriority@32473 class=\"high\"]");
        assertThat(data.get("data"))
                .isEqualTo(Map.of(
                        "exampleSDID@32473",
                        Map.of("iut", "3", "eventSource", "Application", "eventID", "1011"),
                        "examplePriority@32473",
                        Map.of("class", "high")));
        assertThat(data).doesNotContainKey("text");
    }

    @Test
    void whatIsLeftOutIsAbsentAndWhatIsEscapedIsWhatItWas() throws Envelope.Unreadable {
        assertThat(Syslog.read("<0>1 - - - - - -"))
                .isEqualTo(Map.of("facility", 0, "severity", 0, "level", "emergency"));
        assertThat(Syslog.read("<191>1 - - - - - [a b=\"x\\\"y\\]z\\\\ \\n\"][empty] text")
                        .get("data"))
                .isEqualTo(Map.of("a", Map.of("b", "x\"y]z\\ \\n"), "empty", Map.of()));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "hello|place 1",
                "<192>1 - - - - - -|place 2",
                "<034>1 - - - - - -|place 2",
                "<>1 - - - - - -|place 2",
                "<34>Oct 11 22:14:15 mymachine su: 'su root' failed|place 5",
                "<34>1 yesterday - - - - -|place 7",
                "<34>1 - - - - -|MSGID",
                "<34>1 - - - - - x|structured data",
                "<34>1 - - - - - [a b=c]|before a value",
                "<34>1 - - - - - [a b=\"c]|after a value",
                "<34>1 - - - - - [a|a name",
                "<34>1 - - - - - [] x|a name",
                "<34>1 - - - - - -text|a space before the text"
            })
    void whatIsNoLineIsRefusedWithThePlace(String line, String why) {
        String said = why.equals("MSGID") ? "the message" : why;
        assertThatThrownBy(() -> Syslog.read(line))
                .isInstanceOf(Envelope.Unreadable.class)
                .hasMessageContaining(said);
    }

    @Property
    void whateverComesIsReadOrRefused(@ForAll String text) {
        try {
            assertThat(Syslog.read("<34>1 - " + text)).containsKey("severity");
        } catch (Envelope.Unreadable e) {
            assertThat(e).hasMessageContaining("at place");
        }
    }

    @ParameterizedTest
    @CsvSource({
        "10.30.0.12, 10.30.0.12, true",
        "10.30.0.12, 10.30.0.13, false",
        "10.30.0.0/16, 10.30.255.1, true",
        "10.30.0.0/16, 10.31.0.0, false",
        "10.30.0.0/15, 10.31.0.0, true",
        "fd00::/8, fd12::1, true",
        "fd00::/8, fe00::1, false",
        "10.30.0.0/16, ::1, false"
    })
    void aNetworkIsAllThatBeginAlike(String network, String address, boolean contains) throws UnknownHostException {
        assertThat(new Network(network).contains(InetAddress.getByName(address)))
                .isEqualTo(contains);
    }

    @ParameterizedTest
    @CsvSource({
        "10.0.0.0/8, 10.1.0.0/16, true",
        "10.1.0.0/16, 10.0.0.0/8, true",
        "10.1.2.3, 10.1.2.3, true",
        "10.1.0.0/16, 10.2.0.0/16, false"
    })
    void networksMeetWhereOneIsInTheOther(String one, String other, boolean meet) {
        assertThat(new Network(one).meets(new Network(other))).isEqualTo(meet);
    }

    @ParameterizedTest
    @CsvSource({
        "localhost",
        "gates.example",
        "10.0.0",
        "10.0.0.300",
        "10.0.0.0/33",
        "10.0.0.0/0",
        "10.0.0.0/x",
        "abc",
        "''"
    })
    void whatIsNoAddressIsRefusedAndNotLookedUp(String text) {
        assertThatThrownBy(() -> new Network(text)).isInstanceOf(IllegalArgumentException.class);
    }
}
