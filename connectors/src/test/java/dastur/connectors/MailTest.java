package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import dastur.core.people.Channels;
import dastur.core.people.Channels.Safety;
import dastur.core.run.Meeting;
import jakarta.mail.internet.MimeMultipart;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyStore;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Date;
import java.util.List;
import java.util.Optional;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLSocketFactory;
import javax.net.ssl.TrustManagerFactory;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** R13: mail goes out and comes in over TLS, signed in, and nobody in between is believed. */
class MailTest {
    private static final String DESK = "desk@quay.example";
    private static final String PASSWORD = "p\"a ss";

    @TempDir
    static Path folder;

    private static SSLSocketFactory trust;

    private final GreenMail server = new GreenMail(new ServerSetup[] {
        new ServerSetup(0, "127.0.0.1", ServerSetup.PROTOCOL_SMTPS),
        new ServerSetup(0, "127.0.0.1", ServerSetup.PROTOCOL_IMAPS),
        new ServerSetup(0, "127.0.0.1", ServerSetup.PROTOCOL_SMTP)
    });

    /** A certificate for "localhost", and for no other name. */
    @BeforeAll
    static void certificate() throws Exception {
        Path store = folder.resolve("mail.p12");
        Process keytool = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "keytool")
                                .toString(),
                        "-genkeypair",
                        "-alias",
                        "mail",
                        "-keyalg",
                        "EC",
                        "-dname",
                        "CN=mail.quay.example",
                        "-ext",
                        "SAN=dns:localhost",
                        "-storetype",
                        "PKCS12",
                        "-storepass",
                        "changeit",
                        "-keystore",
                        store.toString())
                .inheritIO()
                .start();
        assertThat(keytool.waitFor()).isZero();
        System.setProperty("greenmail.tls.keystore.file", store.toString());
        System.setProperty("greenmail.tls.keystore.password", "changeit");
        KeyStore keys = KeyStore.getInstance("PKCS12");
        try (var in = Files.newInputStream(store)) {
            keys.load(in, "changeit".toCharArray());
        }
        KeyStore believed = KeyStore.getInstance("PKCS12");
        believed.load(null, null);
        believed.setCertificateEntry("mail", keys.getCertificate("mail"));
        TrustManagerFactory managers = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
        managers.init(believed);
        SSLContext context = SSLContext.getInstance("TLS");
        context.init(null, managers.getTrustManagers(), null);
        trust = context.getSocketFactory();
    }

    @AfterAll
    static void forget() {
        System.clearProperty("greenmail.tls.keystore.file");
        System.clearProperty("greenmail.tls.keystore.password");
    }

    @BeforeEach
    void start() {
        server.setUser(DESK, DESK, PASSWORD);
        server.start();
    }

    @AfterEach
    void stop() {
        server.stop();
    }

    private static MailConnector mail(String host, int port, Safety safety, String password, SSLSocketFactory trust) {
        Channels.Server at = new Channels.Server(host, port, safety, password == null ? null : DESK);
        return new MailConnector(
                () -> new MailConnector.Settings(
                        new Channels.Mail(at, DESK, "Quay desk"), () -> Optional.ofNullable(password)),
                trust);
    }

    private static String send(MailConnector mail) throws MailConnector.NotSent {
        return mail.send(
                new MailConnector.Mail("k-1", DESK, "A word", "It is said.\n"),
                Date.from(Instant.parse("2026-03-02T08:00:00Z")));
    }

    @Test
    void itSignsInAndIsSentOverTls() throws Exception {
        send(mail("localhost", server.getSmtps().getPort(), Safety.TLS, PASSWORD, trust));
        assertThat(server.getReceivedMessages()).hasSize(1);
        assertThat(server.getReceivedMessages()[0].getFrom()[0]).hasToString("Quay desk <" + DESK + ">");
    }

    /** Whoever reads no calendars reads the text; each half says the same. */
    @Test
    void anInvitationIsForCalendarsAndForPeople() throws Exception {
        Instant begins = Instant.parse("2026-03-03T21:30:00Z");
        mail("localhost", server.getSmtps().getPort(), Safety.TLS, PASSWORD, trust)
                .send(
                        new MailConnector.Mail(
                                "k-2",
                                DESK,
                                "Be at the pier",
                                "Between ebb and flood, at Ålder Pier.\n",
                                null,
                                new Meeting("C-7.1.invite", 1, begins, begins.plusSeconds(7_200), "Ålder Pier")),
                        Date.from(Instant.parse("2026-03-02T08:00:00Z")));
        MimeMultipart both = (MimeMultipart) server.getReceivedMessages()[0].getContent();
        assertThat(both.getContentType()).startsWith("multipart/alternative");
        assertThat(both.getBodyPart(0).getContent()).asString().startsWith("Between ebb and flood");
        assertThat(both.getBodyPart(1).getContentType())
                .isEqualToIgnoringCase("text/calendar; charset=utf-8; method=REQUEST");
        assertThat(new String(both.getBodyPart(1).getInputStream().readAllBytes(), StandardCharsets.UTF_8))
                .contains("\r\nDTSTART:20260303T213000Z\r\n", "\r\nLOCATION:Ålder Pier\r\n");
    }

    @Test
    void nobodyInBetweenIsBelieved() {
        int port = server.getSmtps().getPort();
        assertThatThrownBy(() -> send(mail("localhost", port, Safety.TLS, PASSWORD, null)))
                .as("a certificate that nobody vouches for")
                .hasMessageContaining("certificate");
        assertThatThrownBy(() -> send(mail("127.0.0.1", port, Safety.TLS, PASSWORD, trust)))
                .as("a certificate for another name")
                .hasMessageContaining("certificate");
        assertThat(server.getReceivedMessages()).isEmpty();
    }

    @Test
    void aServerThatDoesNotTurnToTlsIsToldNothing() {
        int port = server.getSmtp().getPort();
        assertThatThrownBy(() -> send(mail("localhost", port, Safety.STARTTLS, PASSWORD, trust)))
                .hasMessageContaining("STARTTLS");
        assertThat(server.getReceivedMessages()).isEmpty();
    }

    @Test
    void aWrongPasswordIsSaidToBeThat() {
        int port = server.getSmtps().getPort();
        assertThatThrownBy(() -> send(mail("localhost", port, Safety.TLS, "guess", trust)))
                .hasMessageContaining("does not accept our user and password");
        MailConnector unset = new MailConnector(
                () -> new MailConnector.Settings(
                        new Channels.Mail(new Channels.Server("localhost", port, Safety.TLS, DESK), DESK, "Quay"),
                        Optional::empty),
                trust);
        assertThatThrownBy(() -> send(unset)).hasMessageContaining("password is not set");
    }

    @Test
    void theMailboxIsReadOverTlsAndLookingTakesNothing() throws Exception {
        send(mail("localhost", server.getSmtps().getPort(), Safety.TLS, PASSWORD, trust));
        Channels.Server at = new Channels.Server("localhost", server.getImaps().getPort(), Safety.TLS, DESK);
        MailInbox inbox =
                new MailInbox(() -> Optional.of(new MailInbox.Settings(at, () -> Optional.of(PASSWORD))), trust);
        assertThat(inbox.look()).isEqualTo(new MailInbox.Standing(1, 1));
        List<String> heard = new ArrayList<>();
        assertThat(inbox.takeUnread(m -> heard.add(m.subject()))).isEqualTo(1);
        assertThat(heard).containsExactly("A word");
        assertThat(inbox.look()).isEqualTo(new MailInbox.Standing(1, 0));
        MailInbox deceived = new MailInbox(
                () -> Optional.of(new MailInbox.Settings(
                        new Channels.Server("127.0.0.1", at.port(), Safety.TLS, DESK), () -> Optional.of(PASSWORD))),
                trust);
        assertThatThrownBy(deceived::look).hasMessageContaining("certificate");
        assertThat(new MailInbox(Optional::empty).takeUnread(m -> {})).isZero();
    }
}
