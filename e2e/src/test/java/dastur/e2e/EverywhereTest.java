package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.time.Span;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import dastur.store.Workflows;
import java.time.Duration;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** The same decision by chat, by mail and on a phone; what is taken back, done together, and repaired. */
class EverywhereTest {
    private static Stage stage;
    private static String standins;

    @BeforeAll
    static void open() {
        stage = new Stage();
        standins = stage.app.standins().address();
        stage.publish("""
                workflow both-say-so "Both say so" for incident
                  owner ines
                agree: approve "Open the spare gate?" by one from each of person teo, person priya
                  say "Open the spare gate because of {{ ticket.title }}?"
                  shows ticket.title
                  sets off "open the spare gate"
                  declined -> no
                yes: done "opened"
                no: done "left shut"
                """);
        Workflows workflows = stage.app.app().design().workflows();
        workflows.putLadder(new Ladder(
                new LadderKey("two-by-night"), "Two by night", List.of(tell("0 min", "teo"), tell("10 min", "priya"))));
        stage.publish("""
                workflow come-here "Come here" for incident
                  owner ines
                come: call in by two-by-night as "incident commander" "Come to the pier" within 1 h
                  say "{{ ticket.title }}: will you come?"
                  exhausted -> nobody
                came: done "somebody came"
                nobody: done "nobody came"
                """);
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Rung tell(String after, String person) {
        return new Rung(Span.parse(after), new Rung.Tell(List.of(new Party.OfPerson(new PersonId(person))), null));
    }

    private static Locator button(Page page, String name) {
        return Browser.button(page, name);
    }

    /** Raises an incident and starts a workflow on it by hand. @return the page, on the ticket */
    private static Page started(Page ada, String title, String workflow) {
        Browser.raise(ada, title);
        Browser.start(ada, workflow);
        return ada;
    }

    private static String number(Page page) {
        return page.url().replaceAll(".*/", "");
    }

    /** Looks at a page of the stand-ins until something stands there. */
    private static Locator seen(Page page, String address, String words) {
        page.navigate(address);
        Locator article = page.locator("article")
                .filter(new Locator.FilterOptions().setHasText(words))
                .first();
        Browser.reloadUntil(page, article);
        return article;
    }

    /** N41, N43: one from each by chat and by a mail's link; what was shown changed between, so both are asked again. */
    @Test
    void oneFromEachIsDecidedByChatAndByMailAndAskedAgainWhenWhatWasShownChanges() {
        Page ada = started(stage.as("Ada Brandvold"), "The left gate is stuck", "both-say-so");
        String number = number(ada);
        Page teo = stage.newPage();
        String chat = standins + "/chat/@teo:kestrel.example";
        seen(teo, chat, "Open the spare gate? (" + number + ")");
        teo.getByLabel("Say").first().fill(number + " 1");
        button(teo, "Send").first().click();
        assertThat(ada.getByText("Teo Marchetti approved").first()).isVisible();

        button(ada, "Change…").click();
        ada.getByLabel("Title").fill("Both gates are stuck");
        button(ada, "Save").or(button(ada, "Change it")).first().click();
        assertThat(ada.getByText("the approval is void and is asked again")).isVisible();
        seen(teo, chat, "because of Both gates are stuck");
        teo.getByLabel("Say").first().fill(number + " 1");
        button(teo, "Send").first().click();

        Page priya = stage.newPage();
        Locator mail = seen(priya, standins + "/mailbox", "because of Both gates are stuck");
        mail.getByRole(AriaRole.LINK).last().click();
        priya.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Approve and open the spare gate"))
                .click();
        assertThat(priya.getByText("Approved. Thank you.")).isVisible();
        assertThat(ada.getByText("The run ended: opened")).isVisible();
        seen(teo, chat, "Settled: approved");
    }

    /** N41: the answer to a mail decides, with the same entry. */
    @Test
    void anAnswerToAMailDecides() {
        Page ada = started(stage.as("Ada Brandvold"), "The middle gate is stuck", "both-say-so");
        Page priya = stage.newPage();
        Locator mail = seen(priya, standins + "/mailbox", "because of The middle gate is stuck");
        mail.getByLabel("Answer as priya@kestrel.example").fill("no, the wind is too strong");
        mail.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Send"))
                .click();
        assertThat(ada.getByText("Priya Lund declined")).isVisible();
        assertThat(ada.getByText("the wind is too strong").first()).isVisible();
        assertThat(ada.getByText("The run ended: left shut")).isVisible();
    }

    /** N20, N61, N87: on a phone the first cannot, the second comes, and takes part as what was asked for. */
    @Test
    void aCallInPassesFromTheFirstToTheSecondOnAPhone() {
        Page ada = started(stage.as("Ada Brandvold"), "All boards are dark", "come-here");
        Page teo = stage.phone("Teo Marchetti");
        teo.getByText("Come to the pier").first().click();
        teo.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("I cannot"))
                .click();
        assertThat(ada.getByText("Teo Marchetti cannot come")).isVisible();
        Page priya = stage.phone("Priya Lund");
        priya.getByText("Come to the pier").first().click();
        priya.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("I am coming"))
                .click();
        assertThat(ada.getByText("Priya Lund is coming as incident commander")).isVisible();
        assertThat(ada.getByText("The run ended: somebody came")).isVisible();
    }

    /** D29, N1, N40: an outcome is taken back; a ticket is linked and marked; several are given away at once. */
    @Test
    void anOutcomeIsTakenBackTicketsAreLinkedAndSeveralAreGivenAwayTogether() {
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Tickets");
        button(ada, "Raise a ticket").click();
        ada.getByLabel("What is the matter, in one line").fill("Gate 3 at Alder Pier stands open");
        ada.getByLabel("CI", new Page.GetByLabelOptions().setExact(true)).fill("ALD-G3");
        Pick.choose(ada.getByLabel("For whom"), "mira");
        button(ada, "Raise it").click();
        ada.getByText("Look at the gate").first().waitFor();
        String number = number(ada);

        Page runa = stage.as("Runa Feld");
        runa.navigate(stage.address() + "/tickets/" + number);
        runa.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Close the lane"))
                .first()
                .click();
        runa.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Take it back"))
                .click();
        assertThat(runa.getByText("Runa Feld took back: Close the lane")).isVisible();
        assertThat(runa.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Cleared on the spot"))
                        .first())
                .isVisible();

        assertThat(ada.getByLabel("Clocks")).containsText("restore");
        button(ada, "Link…").click();
        Pick.choose(ada.getByLabel("This ticket is"), "caused by");
        ada.getByLabel("Number of the other").fill("I-1046");
        button(ada, "Link them").click();
        assertThat(ada.getByLabel("Other tickets")).containsText("caused by I-1046");
        button(ada, "Mark as major").click();
        assertThat(ada.getByText("major", new Page.GetByTextOptions().setExact(true)))
                .isVisible();

        Browser.go(ada, "Tickets");
        ada.getByLabel("Choose " + number).check();
        ada.getByLabel("Choose I-1046").check();
        button(ada, "Give them to… or note…").click();
        ada.getByLabel("Note on each").fill("Both wait for the same part.");
        button(ada, "Do it for 2").click();
        assertThat(ada.getByText("tickets chosen")).hasCount(0);
        ada.navigate(stage.address() + "/tickets/I-1046");
        assertThat(ada.getByText("Both wait for the same part.").first()).isVisible();
        assertThat(ada.getByLabel("Other tickets")).containsText("causes " + number);
    }

    /** N28: two editors of one draft, each changing another step: both changes are in. */
    @Test
    void twoEditorsBringTheirChangesTogether() {
        Page one = stage.as("Ines Okafor-Lind");
        Page two = stage.as("Ines Okafor-Lind");
        for (Page page : List.of(one, two)) {
            page.navigate(stage.address() + "/workflows/fares-on-kiosks");
            page.locator("[data-step]").first().waitFor();
        }
        rename(one, "list", "Read all kiosks");
        assertThat(one.getByRole(AriaRole.STATUS).getByText("saved")).isVisible();
        rename(two, "which", "Keep the ones behind");
        assertThat(two.getByText("Two are editing.")).isVisible();
        assertThat(two.getByRole(AriaRole.ALERT)).containsText("Read all kiosks");
        button(two, "Bring both together").click();
        assertThat(two.locator("[data-step=list]")).containsText("Read all kiosks");
        assertThat(two.locator("[data-step=which]")).containsText("Keep the ones behind");
        assertThat(two.getByRole(AriaRole.STATUS).getByText("saved")).isVisible();
    }

    private static void rename(Page page, String step, String name) {
        page.locator("[data-step=" + step + "]").click();
        page.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill(name);
    }

    /** N60, N84: a mail that could not be delivered stands in a list, and is sent again when the server is back. */
    @Test
    void anUndeliverableMailIsSentAgain() {
        Page ada = started(stage.as("Ada Brandvold"), "The right gate is stuck", "both-say-so");
        String number = number(ada);
        Page control = stage.newPage();
        control.navigate(standins);
        button(control, "Take it down").click();
        button(ada, "Add a note").click();
        ada.getByLabel("Note", new Page.GetByLabelOptions().setExact(true)).fill("A part is on its way.");
        ada.getByLabel("Meant for the requester").check();
        button(ada, "Add it to the record").click();
        assertThat(ada.getByText("A part is on its way.").first()).isVisible();
        // A mail is tried for a quarter of an hour.
        stage.clock.pass(Duration.ofMinutes(16));
        assertThat(ada.getByText("Mail to Mira Solheim could not be delivered")).isVisible();
        control.navigate(standins);
        button(control, "Start it again").click();
        Browser.go(ada, "Undelivered");
        Locator row = ada.getByRole(AriaRole.LISTITEM).filter(new Locator.FilterOptions().setHasText(number));
        row.getByRole(AriaRole.BUTTON).click();
        assertThat(row).hasCount(0);
        seen(control, standins + "/mailbox", "A part is on its way.");
    }
}
