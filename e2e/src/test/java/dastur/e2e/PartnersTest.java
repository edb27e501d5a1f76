package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.assertions.LocatorAssertions;
import com.microsoft.playwright.options.AriaRole;
import dastur.standins.PartnerDesk;
import java.time.Duration;
import java.time.Instant;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.Assertions;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** A ticket that is handed to the supplier and followed at their desk, and the page that says how theirs and ours meet (I15, I16). */
class PartnersTest {
    private static Stage stage;
    private static PartnerDesk desk;

    @BeforeAll
    static void open() {
        stage = new Stage();
        desk = stage.app.standins().partner();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Locator region(Page page, String name) {
        return page.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName(name));
    }

    private static Page supplier(String person) {
        Page page = stage.as(person);
        Browser.go(page, "Partners");
        page.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Lane supplier"))
                .click();
        assertThat(page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setLevel(1)))
                .hasText("Lane supplier");
        return page;
    }

    @Test
    void whatIsHandedOverIsFollowedSettledSaidAndClosed() {
        desk.takeLessSeriously(true);
        Page ada = stage.as("Ada Brandvold");
        Browser.raise(ada, "Hinge of lane 3 worn");
        ada.waitForURL(Pattern.compile(".*/tickets/I-\\d+"));
        String number = ada.url().substring(ada.url().lastIndexOf('/') + 1);
        Browser.start(ada, "handed-to-the-supplier");
        Locator at = region(ada, "At partners");
        assertThat(at).containsText("Lane supplier");
        assertThat(at).containsText("Handed over, followed");
        PartnerDesk.Fault fault = desk.faults().stream()
                .filter(f -> f.yours().equals(number))
                .findFirst()
                .orElseThrow();
        assertThat(at).containsText(fault.no());

        // They take it less seriously: it stands on the Desk of whoever has it, and on the ticket.
        Page other = stage.as("Ada Brandvold");
        Browser.go(other, "Desk");
        other.locator("li button")
                .filter(new Locator.FilterOptions().setHasText(number).setHasText("what counts"))
                .first()
                .click();
        Locator card = region(other, "Impact: what counts?");
        assertThat(card).containsText("Lane supplier says");
        card.getByLabel("Why").fill("They see the log, we do not.");
        card.getByRole(AriaRole.BUTTON)
                .filter(new Locator.FilterOptions().setHasText("Take theirs"))
                .click();
        assertThat(ada.getByLabel("What became of it")).containsText("said that theirs counts");
        button(ada, "Go on").click();
        assertThat(ada.locator("main")).containsText("They see the log, we do not.");

        button(ada, "Say something…").click();
        ada.getByLabel("What they are to read").fill("It squeaks since May.");
        button(ada, "Say it to Lane supplier").click();
        assertThat(ada.getByRole(AriaRole.DIALOG)).hasCount(0);
        assertThat(ada.locator("main")).containsText("They have what was said");
        Assertions.assertEquals(
                "It squeaks since May.",
                desk.fault(fault.no()).words().getLast().said());
        desk.say(fault.no(), "Tove at the supplier", "Somebody comes on Monday.", "");
        assertThat(ada.locator("main")).containsText("Somebody comes on Monday.");

        desk.solve(fault.no(), "A new hinge is in.");
        assertThat(ada.getByText("The run ended: put right by the supplier")).isVisible();
        assertThat(ada.locator("header")).containsText("closed");
        desk.takeLessSeriously(false);

        Page ines = supplier("Ines Okafor-Lind");
        assertThat(region(ines, "Their tickets")).containsText(fault.no());
        button(ines, "What came and went").click();
        Locator line = ines.getByRole(AriaRole.BUTTON)
                .filter(new Locator.FilterOptions().setHasText("taken over"))
                .first();
        line.click();
        assertThat(ines.locator("main")).containsText("What it means here");
        assertThat(ines.locator("main")).containsText("A new hinge is in.");
    }

    /** What they have lost is not followed for ever: the ticket says so, and whoever has it is told; what they find again is followed. */
    @Test
    void whatIsGoneThereIsSaidOnTheTicketAndComesBack() {
        Page ada = stage.as("Ada Brandvold");
        Browser.raise(ada, "Cabinet of lane 2 does not shut");
        ada.waitForURL(Pattern.compile(".*/tickets/I-\\d+"));
        String number = ada.url().substring(ada.url().lastIndexOf('/') + 1);
        Browser.start(ada, "handed-to-the-supplier");
        Locator at = region(ada, "At partners");
        assertThat(at).containsText("Handed over, followed");
        PartnerDesk.Fault fault = desk.faults().stream()
                .filter(f -> f.yours().equals(number))
                .findFirst()
                .orElseThrow();

        Page ines = supplier("Ines Okafor-Lind");
        desk.drop(fault.no());
        ines.getByLabel("Compare again: " + fault.no()).click();
        var soon = new LocatorAssertions.ContainsTextOptions().setTimeout(60_000);
        assertThat(at).containsText("No longer followed", soon);
        assertThat(ada.locator("main")).containsText("'" + fault.no() + "' is gone there: they know it no longer.");
        ines.reload();
        assertThat(region(ines, "Their tickets")).containsText("is gone there: they know it no longer");

        desk.putBack(fault);
        assertThat(at).containsText("Handed over, followed", soon);

        // Whoever sets up a partner says by what one is read, and hears where that cannot tell.
        button(ines, "How it is joined").click();
        Pick.choose(ines.getByLabel("One of its tickets is read by"), "partner.list");
        button(ines, "Save").click();
        assertThat(ines.getByText("has no input 'id'")).isVisible();
    }

    @Test
    void wordsAreTriedBeforeTheyCountAndWhatCannotWorkIsSaidWhereItStands() {
        desk.raiseOwn("To be looked at", "Nothing.", "C", "", "");
        Page ines = supplier("Ines Okafor-Lind");
        button(ines, "How it is joined").click();
        button(ines, "Look once, without any effect").click();
        Locator look = region(ines, "One look");
        assertThat(look).containsText("It answers");
        assertThat(look).containsText("C → 3");

        Locator word = ines.getByLabel("Our word 3 for impact");
        word.fill("nine");
        button(ines, "Save").click();
        assertThat(ines.getByText("'nine' is no value of 'impact'")).isVisible();
        word.fill("2");
        button(ines, "Look once, without any effect").click();
        assertThat(look).containsText("C → 2");
        word.fill("3");
        // Who was later can only be told where they say when.
        Locator changed = ines.getByLabel("When it was last changed");
        changed.fill("");
        button(ines, "Save").click();
        assertThat(ines.getByText("Who was later can only be told where")).isVisible();
        changed.fill("/touched_at");
        Pick.choose(ines.getByLabel("Where both changed it").first(), "later");
        button(ines, "Save").click();
        assertThat(ines.getByText("Saved. It counts from the next look on.")).isVisible();
        Pick.choose(ines.getByLabel("Where both changed it").first(), "person");
        button(ines, "Save").click();
        assertThat(ines.getByText("Saved. It counts from the next look on.")).isVisible();
    }

    /** What was there before the desks were joined is counted, taken over while somebody looks on, and is a ticket like any other. */
    @Test
    void whatWasOpenBeforeIsCountedAndTakenOver() {
        Page ines = supplier("Ines Okafor-Lind");
        Page runa = supplier("Runa Feld");
        assertThat(runa.getByText("Take over what is open there")).hasCount(0);
        button(ines, "Take over what is open there…").click();
        Locator dialog = ines.getByRole(AriaRole.DIALOG);
        dialog.getByLabel("Touched there since").fill("in 3 weeks");
        button(ines, "Count them first").click();
        assertThat(dialog).containsText("Name a day that has been");
        Instant before = Instant.now().minus(Duration.ofDays(30));
        dialog.getByLabel("Touched there since").fill(before.toString().substring(0, 10));
        button(ines, "Count them first").click();
        assertThat(dialog).containsText("has ended there and would stay there");
        assertThat(dialog).containsText("State: “on the bench” on 1");
        assertThat(dialog).containsText("Lane 7 opens late");
        dialog.getByRole(AriaRole.BUTTON)
                .filter(new Locator.FilterOptions().setHasText(Pattern.compile("^Take over \\d+$")))
                .click();
        assertThat(dialog).hasCount(0);
        var soon = new LocatorAssertions.ContainsTextOptions().setTimeout(60_000);
        assertThat(region(runa, "What was open before")).containsText("Taken over:", soon);
        assertThat(region(runa, "What was open before")).containsText("Ines Okafor-Lind");
        Locator row = region(runa, "Their tickets")
                .getByRole(AriaRole.ROW)
                .filter(new Locator.FilterOptions().setHasText("F-412"));
        assertThat(row).containsText("followed");
        row.getByRole(AriaRole.LINK).click();
        assertThat(region(runa, "At partners")).containsText("Theirs first, followed");
        assertThat(runa.locator("main")).containsText("A new board is ordered.", soon);
    }

    @Test
    void aPartnerIsMadeAndWhoeverDesignsNothingChangesNone() {
        Page ines = stage.as("Ines Okafor-Lind");
        Browser.go(ines, "Partners");
        button(ines, "New partner").click();
        ines.getByLabel("Name").fill("Berth works");
        Pick.choose(ines.getByLabel("What lists its tickets"), "partner.list");
        button(ines, "Make it").click();
        ines.waitForURL(Pattern.compile(".*/partners/berth-works.*"));
        assertThat(ines.locator("header")).containsText("switched off");

        Page runa = supplier("Runa Feld");
        button(runa, "How it is joined").click();
        assertThat(runa.getByLabel("Its number")).isDisabled();
        assertThat(button(runa, "Save")).hasCount(0);
    }
}
