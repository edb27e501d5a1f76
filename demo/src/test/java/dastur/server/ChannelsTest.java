package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import dastur.connectors.MailConnector;
import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** R13: mail, mailbox, chat and address are set on screen, tried before, and used at once; a password goes nowhere else. */
class ChannelsTest extends OnDemo {
    private static final String USER = "desk@quay.example";
    private static final String PASSWORD = "n0body-reads-this";

    /** Another organisation's mail server. */
    private final GreenMail other = new GreenMail(new ServerSetup[] {
        new ServerSetup(0, "127.0.0.1", ServerSetup.PROTOCOL_SMTP),
        new ServerSetup(0, "127.0.0.1", ServerSetup.PROTOCOL_IMAP)
    });

    @BeforeEach
    void start() {
        other.setUser(USER, USER, PASSWORD);
        other.start();
    }

    @AfterEach
    void asStarted() {
        for (String which : List.of("mail", "mailbox", "chat", "address")) {
            api.call("halvard", "DELETE", "/api/channels/" + which, null);
        }
        other.stop();
    }

    private static ApiClient.Answer put(String which, String body) {
        return api.call("halvard", "PUT", "/api/channels/" + which, body);
    }

    private static JsonNode tried(String which, String body) {
        return api.call("halvard", "POST", "/api/channels/" + which + "/try", body)
                .body();
    }

    private static JsonNode now() {
        return api.call("halvard", "GET", "/api/channels", null).body();
    }

    private String mail(String more) {
        return """
                {"host":"127.0.0.1","port":%d,"safety":"NONE","from":"night@quay.example","name":"Night desk"%s}""".formatted(other.getSmtp().getPort(), more);
    }

    private static String signedIn(String password) {
        return ",\"user\":\"" + USER + "\",\"password\":\"" + password + "\"";
    }

    private List<String> subjects() throws Exception {
        return Arrays.stream(other.getReceivedMessages())
                .map(m -> {
                    try {
                        return m.getSubject();
                    } catch (jakarta.mail.MessagingException e) {
                        throw new IllegalStateException(e);
                    }
                })
                .toList();
    }

    /** Duty managers are asked, each by a mail with a link of their own. */
    private static void askForADecision(String gate) {
        String number = raiseGate(gate);
        ApiClient.Answer done =
                api.call("runa", "POST", "/api/tasks/" + number + ".1.1/complete", "{\"outcome\":\"Close the lane\"}");
        assertThat(done.status()).as(done.raw().body()).isEqualTo(200);
    }

    @Test
    void aTrialSendsOneMailToWhoeverTriesAndKeepsNothing() throws Exception {
        JsonNode before = now();
        assertThat(tried("mail", mail("")).get("worked").asBoolean()).isTrue();
        assertThat(other.getReceivedMessages()).hasSize(1);
        assertThat(other.getReceivedMessages()[0].getAllRecipients()[0]).hasToString("halvard@kestrel.example");
        assertThat(tried("mail", mail(signedIn("guess"))).get("said").asText()).contains("does not accept our user");
        assertThat(tried("mail", mail(signedIn(PASSWORD))).get("worked").asBoolean())
                .isTrue();
        assertThat(now()).isEqualTo(before);
        String body = mail("");
        other.stop();
        JsonNode down = tried("mail", body);
        assertThat(down.get("worked").asBoolean()).isFalse();
        assertThat(down.get("said").asText()).contains("cannot be reached");
    }

    @Test
    void whatIsSetIsUsedAtOnceAndItsPasswordIsNowhere() throws Exception {
        assertThat(put("mail", mail(signedIn(PASSWORD))).status()).isEqualTo(204);
        assertThat(put("chat", "{}").status()).isEqualTo(204);
        askForADecision("ALD-G2");
        assertThat(other.waitForIncomingEmail(20_000, 1)).isTrue();
        assertThat(other.getReceivedMessages()[0].getFrom()[0]).hasToString("Night desk <night@quay.example>");
        for (String path : List.of("/api/channels", "/api/secrets", "/api/journal", "/api/snapshot")) {
            assertThat(api.call("halvard", "GET", path, null).raw().body())
                    .as(path)
                    .doesNotContain(PASSWORD);
        }
        assertThat(api.call("halvard", "GET", "/api/journal", null).body().toString())
                .contains("channels");
        JsonNode mail = now().get("mail");
        assertThat(mail.get("here").asBoolean()).isTrue();
        assertThat(mail.get("server").get("password").asBoolean()).isTrue();
        // The same server and user: the password stays.
        assertThat(put("mail", mail(",\"user\":\"" + USER + "\"")).status()).isEqualTo(204);
        String own = api.app()
                .app()
                .design()
                .organisation()
                .channels()
                .mail()
                .server()
                .secret();
        assertThat(api.call("halvard", "DELETE", "/api/secrets/" + own, null).status())
                .as("a secret of a channel is set there")
                .isEqualTo(409);
        assertThat(api.call("halvard", "PUT", "/api/secrets/" + own, "{\"value\":\"x\"}")
                        .status())
                .isEqualTo(422);
    }

    /** A node that still goes by the settings of before, for a moment, sends the new password to nobody: it belongs to the new server. */
    @Test
    void whoeverStillKnowsTheServerOfBeforeNeverSendsItTheNewPassword() {
        put("mail", mail(signedIn(PASSWORD)));
        MailConnector.Settings before = api.app().app().design().channels().mail();
        assertThat(before.password().get()).contains(PASSWORD);
        assertThat(put("mail", mail(",\"user\":\"other@quay.example\",\"password\":\"another-one\""))
                        .status())
                .isEqualTo(204);
        assertThat(before.password().get()).isEmpty();
        assertThat(api.app().app().design().channels().mail().password().get()).contains("another-one");
        assertThat(api.app().app().design().secrets().all().stream()
                        .filter(s -> s.name().startsWith("channel."))
                        .count())
                .as("the one of before is gone")
                .isOne();
        api.call("halvard", "DELETE", "/api/channels/mail", null);
        assertThat(api.app().app().design().secrets().all())
                .noneMatch(s -> s.name().startsWith("channel."));
    }

    @Test
    void aPasswordGoesToNoOtherServer() throws Exception {
        put("mail", mail(signedIn(PASSWORD)));
        GreenMail thief = new GreenMail(new ServerSetup(0, "127.0.0.1", ServerSetup.PROTOCOL_SMTP));
        thief.start();
        try {
            String there = mail(",\"user\":\"" + USER + "\"")
                    .replace(
                            "" + other.getSmtp().getPort(), "" + thief.getSmtp().getPort());
            assertThat(put("mail", there).where()).isEqualTo("password");
            assertThat(api.call("halvard", "POST", "/api/channels/mail/try", there)
                            .where())
                    .isEqualTo("password");
            assertThat(thief.getReceivedMessages()).isEmpty();
        } finally {
            thief.stop();
        }
        assertThat(put("chat", "{\"address\":\"https://elsewhere.example\"}").where())
                .isEqualTo("token");
        assertThat(put("mailbox", """
                {"used":true,"host":"imap.elsewhere.example","port":993,"safety":"TLS","user":"dastur@kestrel.example"}""").where()).isEqualTo("password");
        assertThat(now().get("mailbox").get("here").asBoolean()).isFalse();
    }

    @Test
    void aMailboxIsLookedIntoWithoutTakingAnything() {
        String box = """
                {"used":true,"host":"127.0.0.1","port":%d,"safety":"NONE","user":"%s","password":"%s"}""".formatted(other.getImap().getPort(), USER, PASSWORD);
        put("mail", mail(""));
        assertThat(tried("mailbox", box).get("said").asText()).contains("0 mails lie in it");
        assertThat(put("mailbox", box).status()).isEqualTo(204);
        assertThat(now().get("mailbox").get("server").get("user").asText()).isEqualTo(USER);
        assertThat(put("mailbox", "{\"used\":false,\"port\":0}").status()).isEqualTo(204);
        assertThat(now().get("mailbox").has("server")).isFalse();
        assertThat(api.call("halvard", "DELETE", "/api/channels/mailbox", null).status())
                .isEqualTo(204);
        assertThat(now().get("mailbox").get("server").get("user").asText()).isEqualTo("dastur@kestrel.example");
    }

    @Test
    void aChatServerSaysWhoWeAre() {
        String address = now().get("chat").get("address").asText();
        assertThat(tried("chat", "{\"address\":\"" + address + "\"}")
                        .get("said")
                        .asText())
                .contains("@dastur:");
        JsonNode wrong = tried("chat", "{\"address\":\"" + address + "\",\"token\":\"guess\"}");
        assertThat(wrong.get("worked").asBoolean()).isFalse();
        assertThat(tried("chat", "{\"address\":\"http://127.0.0.1:9\",\"token\":\"t\"}")
                        .get("said")
                        .asText())
                .contains("does not answer");
    }

    @Test
    void linksBeginWithTheAddress() throws Exception {
        put("mail", mail(""));
        put("chat", "{}");
        assertThat(put("address", "{\"address\":\"https://desk.quay.example/\"}")
                        .status())
                .isEqualTo(204);
        askForADecision("ALD-G4");
        assertThat(other.waitForIncomingEmail(20_000, 1)).isTrue();
        assertThat(other.getReceivedMessages()[0].getContent().toString())
                .contains("https://desk.quay.example/")
                .doesNotContain("localhost");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            mail    | host     | {"host":"","port":25,"safety":"NONE","from":"a@b.example"}
            mail    | host     | {"host":"mail quay; rm","port":25,"safety":"NONE","from":"a@b.example"}
            mail    | port     | {"host":"mail.quay.example","port":0,"safety":"NONE","from":"a@b.example"}
            mail    | port     | {"host":"mail.quay.example","port":65536,"safety":"NONE","from":"a@b.example"}
            mail    | from     | {"host":"mail.quay.example","port":25,"safety":"NONE","from":"nobody"}
            mail    | from     | {"host":"mail.quay.example","port":25,"safety":"NONE","from":"a@b.example\\r\\nBcc: c@d.example"}
            mail    | name     | {"host":"mail.quay.example","port":25,"safety":"NONE","from":"a@b.example","name":"x\\r\\nBcc: c@d.example"}
            mail    | safety   | {"host":"mail.quay.example","port":25,"safety":"NONE","from":"a@b.example","user":"u","password":"p"}
            mail    | safety   | {"host":"mail.quay.example","port":25,"from":"a@b.example"}
            mailbox | user     | {"used":true,"host":"mail.quay.example","port":993,"safety":"TLS"}
            mailbox | safety   | {"used":true,"host":"mail.quay.example","port":143,"safety":"NONE","user":"u","password":"p"}
            chat    | address  | {"address":"http://chat.quay.example","token":"t"}
            chat    | address  | {"address":"ftp://chat.quay.example","token":"t"}
            chat    | address  | {"address":"https://u:p@chat.quay.example","token":"t"}
            chat    | address  | {"address":"https://chat.quay.example?x=1","token":"t"}
            address | address  | {"address":""}
            address | address  | {"address":"javascript:alert(1)"}
            """)
    void whatCannotWorkIsRefusedAtItsPlace(String which, String where, String body) {
        JsonNode before = now();
        ApiClient.Answer answer = put(which, body);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(422);
        assertThat(answer.where()).isEqualTo(where);
        assertThat(now()).isEqualTo(before);
    }
}
