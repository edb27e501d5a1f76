package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.server.auth.MailThreads;
import dastur.standins.Mailbox;
import java.util.List;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Answers to mails decide and are noted, and only those of who was asked (N41). */
class RepliesTest extends OnDemo {
    private static final String PRIYA = "priya@kestrel.example";

    private static Mailbox mailbox;

    @BeforeAll
    static void start() {
        mailbox = api.app().standins().mailbox();
    }

    private static JsonNode ticket(String number) {
        return api.call("ada", "GET", "/api/tickets/" + number, null).body();
    }

    /** A decision that Priya is asked for by mail. */
    private static String asked() {
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Gate stands open","ci":"ALD-G4","requester":"mira",
                        "impact":2,"urgency":2,"group":"pier-technicians"}}""")
                .body()
                .get("ticket")
                .asText();
        String task = ticket(number).get("asks").get(0).get("visit").asText();
        assertThat(api.call("runa", "POST", "/api/tasks/" + task + "/complete", "{\"outcome\":\"Close the lane\"}")
                        .status())
                .isEqualTo(200);
        return number;
    }

    private static Mailbox.Mail mail(String to, String words) {
        until(() -> mails(to, words).size() > 0);
        return mails(to, words).getFirst();
    }

    private static List<Mailbox.Mail> mails(String to, String words) {
        return mailbox.mails().stream()
                .filter(m -> m.to().equals(to) && (m.subject() + " " + m.text()).contains(words))
                .toList();
    }

    private static void answer(String from, Mailbox.Mail mail, String text) {
        mailbox.answer(from, mail.id(), mail.subject(), text);
    }

    private static List<String> entries(String number) {
        return api.call("ada", "GET", "/api/tickets/" + number + "/record", null)
                .body()
                .get("entries")
                .findValuesAsText("kind");
    }

    @Test
    void aYesIsAVoteWithTheSameEntryAsInTheApplication() {
        String number = asked();
        Mailbox.Mail asking = mail(PRIYA, number);
        assertThat(asking.text()).contains("yes  Approve and close the lane").contains("/decide/");
        answer(PRIYA, asking, "Yes, but only today\n\nOn Monday, Dastur wrote:\n> Close the lane?");
        until(() -> entries(number).contains("approvalClosed"));
        mail(PRIYA, "Noted: yes to “Close the lane?” on " + number);
        answer(PRIYA, asking, "yes");
        mail(PRIYA, "Too late");
    }

    @Test
    void whatIsNotUnderstoodIsAskedAgainAndNothingIsDecided() {
        String number = asked();
        Mailbox.Mail asking = mail(PRIYA, number);
        answer(PRIYA, asking, "Let me think about it");
        mail(PRIYA, "I did not understand");
        assertThat(entries(number)).doesNotContain("voteCast");
        answer(PRIYA, asking, "? Which lane is it?");
        mail(PRIYA, "Asked about “Close the lane?” on " + number);
        assertThat(entries(number)).contains("askedBack");
    }

    @Test
    void anAnswerOfSomebodyElseOrToAnotherMailDecidesNothing() {
        String number = asked();
        Mailbox.Mail asking = mail(PRIYA, number);
        String forged = new MailThreads(new byte[32]).of("x");
        answer("pavel@kestrel.example", asking, "yes");
        mailbox.answer(PRIYA, "<" + forged + "@kestrel.example>", asking.subject(), "yes");
        // The third comes after them: when it is taken, they were.
        answer(PRIYA, asking, "perhaps");
        until(() -> mails(PRIYA, "I did not understand").size() > 0);
        assertThat(entries(number)).doesNotContain("voteCast");
        assertThat(mails("pavel@kestrel.example", "Noted")).isEmpty();
    }

    @Test
    void theRequesterAnswersAndItIsANoteThatTheyAndTheDeskSee() {
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Till is mute","requester":"mira"}}""")
                .body()
                .get("ticket")
                .asText();
        api.call("ada", "POST", "/api/tickets/" + number + "/notes", """
                {"text":"Which till is it?","toRequester":true}""");
        answer("mira@kestrel.example", mail("mira@kestrel.example", "Which till is it?"), "The left one.\n-- \nMira");
        until(() -> entries(number).stream().filter("noteAdded"::equals).count() == 2);
        JsonNode talk =
                api.call("mira", "GET", "/api/tickets/" + number, null).body().get("talk");
        assertThat(talk.get(1).get("text").asText()).isEqualTo("The left one.");
    }

    /** Anybody can write to the mailbox: what cannot be read must not keep other answers waiting. */
    @Test
    void aMailThatCannotBeReadHoldsNothingUp() throws Exception {
        java.util.Properties smtp = new java.util.Properties();
        smtp.setProperty("mail.smtp.host", "127.0.0.1");
        smtp.setProperty("mail.smtp.port", String.valueOf(mailbox.port()));
        jakarta.mail.internet.MimeMessage broken = new jakarta.mail.internet.MimeMessage(
                jakarta.mail.Session.getInstance(smtp),
                new java.io.ByteArrayInputStream(("From: x@kestrel.example\r\nTo: " + Mailbox.OWN
                                + "\r\nMessage-ID: <broken@kestrel.example>\r\nSubject: x\r\n"
                                + "Content-Type: text/plain; charset=no-such-charset\r\n\r\nx\r\n")
                        .getBytes(java.nio.charset.StandardCharsets.US_ASCII)));
        jakarta.mail.Transport.send(
                broken, new jakarta.mail.Address[] {new jakarta.mail.internet.InternetAddress(Mailbox.OWN)});
        String number = asked();
        answer(PRIYA, mail(PRIYA, number), "yes");
        until(() -> entries(number).contains("approvalClosed"));
    }
}
