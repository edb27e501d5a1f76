package dastur.server.channels;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.connectors.MailConnector;
import dastur.core.people.Channels;
import dastur.server.Scene;
import dastur.server.witness.Giving;
import java.time.Duration;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** What is set on screen counts before what the start named, and another node knows of it within two seconds. */
class ChannelsNowTest {
    private Channels set = Channels.AS_STARTED;
    private long nanos;
    private int reads;

    private final ChannelsNow now = new ChannelsNow(
            new Scene.Outside(
                    MailConnector.Settings.open("started.example", 25, "desk@started.example"),
                    null,
                    null,
                    Duration.ofSeconds(1),
                    Giving.To.NOBODY),
            "https://started.example",
            () -> {
                reads++;
                return set;
            },
            name -> Optional.of("the secret " + name),
            () -> nanos);

    private static Channels.Mail mail(String host) {
        return new Channels.Mail(
                new Channels.Server(host, 465, Channels.Safety.TLS, "desk", "channel.mail.1"),
                "desk@quay.example",
                "Quay");
    }

    @Test
    void whatTheStartNamedHoldsUntilSomethingIsSet() {
        assertThat(now.mail().mail().server().host()).isEqualTo("started.example");
        assertThat(now.mailbox()).isEmpty();
        assertThat(now.chat()).isEmpty();
        assertThat(now.address()).contains("https://started.example");
        set = set.withMail(mail("quay.example")).withAddress("https://quay.example");
        now.changed();
        assertThat(now.mail().mail().server().host()).isEqualTo("quay.example");
        assertThat(now.mail().password().get()).contains("the secret channel.mail.1");
        assertThat(now.address()).contains("https://quay.example");
        assertThat(now.chat()).isEmpty();
    }

    @Test
    void anotherNodeHearsOfItWithinTwoSecondsAndAsksNoMoreOftenThanThat() {
        now.mail();
        set = set.withMail(mail("quay.example"));
        nanos = Duration.ofMillis(1_900).toNanos();
        assertThat(now.mail().mail().server().host()).isEqualTo("started.example");
        assertThat(reads).isOne();
        nanos = Duration.ofMillis(2_001).toNanos();
        assertThat(now.mail().mail().server().host()).isEqualTo("quay.example");
    }

    @Test
    void noneIsUsedWhereSomebodySaidSoThoughTheStartNamedOne() {
        set = set.withChat(new Channels.Chat(null, null)).withMailbox(new Channels.Mailbox(null));
        assertThat(now.chat()).isEmpty();
        assertThat(now.mailbox()).isEmpty();
    }
}
