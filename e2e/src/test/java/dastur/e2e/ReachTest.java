package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.FilePayload;
import java.nio.charset.StandardCharsets;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Deciding in chat, asking before deciding, files, known answers, finding: between several people and a phone. */
class ReachTest {
    private static final byte[] PNG = {(byte) 0x89, 'P', 'N', 'G', 13, 10, 26, 10};

    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Locator button(Page page, String name) {
        return page.getByRole(
                AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name).setExact(true));
    }

    /** N41: not understood, asked again; then decided by a word in chat, and the record knows who. */
    @Test
    void aDecisionIsMadeInChat() {
        Page chat = stage.newPage();
        String page = stage.app.standins().address() + "/chat/@teo:kestrel.example";
        chat.navigate(page);
        Locator asked =
                chat.locator("article").filter(new Locator.FilterOptions().setHasText("Close the lane? (I-1045)"));
        Browser.reloadUntil(chat, asked);
        chat.getByLabel("Say").fill("I-1045 sounds fine to me");
        button(chat, "Send").click();
        Locator again = chat.getByText("I did not understand that");
        Browser.reloadUntil(chat, again);
        // Other decisions may have been asked for since: the choice goes to the last one, so this one is answered by
        // name.
        stage.app.standins().chat().with("@teo:kestrel.example").stream()
                .filter(e -> e.text().contains("(I-1045)"))
                .reduce((a, b) -> b)
                .ifPresent(e -> stage.app
                        .standins()
                        .chat()
                        .say("@teo:kestrel.example", "1, hold the barrier meanwhile", e.id()));
        Page ada = stage.as("Ada Brandvold");
        ada.navigate(stage.address() + "/tickets/I-1045");
        assertThat(ada.getByText("Teo Marchetti approved")).isVisible();
        assertThat(ada.getByText("hold the barrier meanwhile").first()).isVisible();
    }

    /** N12: asked first from the desk; the requester answers on a phone; the clocks say that they stand still. */
    @Test
    void aQuestionIsAskedBeforeDecidingAndAnsweredOnAPhone() {
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Tickets");
        button(ada, "Raise a ticket").click();
        ada.getByLabel("What is the matter, in one line").fill("Gate 2 at Alder Pier stands open for Mira Solheim");
        ada.getByLabel("CI", new Page.GetByLabelOptions().setExact(true)).fill("ALD-G2");
        Pick.choose(ada.getByLabel("For whom"), "mira");
        button(ada, "Raise it").click();
        ada.getByText("Look at the gate").first().waitFor();
        String number = ada.url().replaceAll(".*/", "");

        Page runa = stage.as("Runa Feld");
        runa.navigate(stage.address() + "/tickets/" + number);
        runa.locator("input[type=file]").setInputFiles(new FilePayload("lane.png", "image/png", PNG));
        assertThat(runa.getByText("Runa Feld attached lane.png")).isVisible();
        runa.locator("input[type=file]")
                .setInputFiles(new FilePayload("page.html", "text/html", "<b>".getBytes(StandardCharsets.UTF_8)));
        assertThat(runa.getByText("are not taken")).isVisible();
        button(runa, "Close the lane")
                .or(runa.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Close the lane")))
                .first()
                .click();

        Page priya = stage.as("Priya Lund");
        priya.navigate(stage.address() + "/tickets/" + number);
        button(priya, "Ask first…").click();
        priya.getByLabel("What do you need to know?").fill("Is gate 1 open meanwhile?");
        button(priya, "Ask").click();
        assertThat(priya.getByText("the clocks stand still until it is answered"))
                .isVisible();

        Page mira = stage.phone("Mira Solheim");
        assertThat(mira.getByText("Is gate 1 open meanwhile?").first()).isVisible();
        mira.getByLabel("Answer", new Page.GetByLabelOptions().setExact(true)).fill("Yes, and it is not busy.");
        button(mira, "Answer").click();
        assertThat(priya.getByText("Mira Solheim answered; the clocks run on")).isVisible();
    }

    /** N49: what is known is offered while typing, and ends the matter. */
    @Test
    void aKnownAnswerEndsTheMatterOnAPhone() {
        Page mira = stage.phone("Mira Solheim");
        Browser.go(mira, "Tickets");
        button(mira, "Ask for help").click();
        mira.getByLabel("What is the matter, in one line").fill("The crew room printer prints nothing");
        button(mira, "The crew room printer prints nothing. What can I try?").click();
        button(mira, "This helped: I need nothing more").click();
        assertThat(mira.getByRole(AriaRole.DIALOG)).hasCount(0);
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Known answers");
        assertThat(ada.getByText("helped 13 times")).isVisible();
    }

    /** N6: found by a word of the record, narrowed down, and kept as a view. */
    @Test
    void ticketsAreFoundNarrowedDownAndKeptAsAView() {
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Tickets");
        ada.getByPlaceholder("Number, or words of the record").fill("kiosk season");
        Locator rows = ada.locator("tbody tr");
        assertThat(rows.filter(new Locator.FilterOptions().setHasText("Gate 2 stands open")))
                .hasCount(0);
        assertThat(rows.first()).containsText("kiosk");
        ada.getByLabel("Narrow down")
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("authorised"))
                .click();
        assertThat(rows).hasCount(1);
        button(ada, "Save this view…").click();
        ada.getByLabel("Name of the view").fill("Kiosks to open");
        button(ada, "Save").click();
        assertThat(button(ada, "Kiosks to open")).isVisible();
        Browser.go(ada, "Desk");
        Browser.go(ada, "Tickets");
        button(ada, "Kiosks to open").click();
        assertThat(rows).hasCount(1);
    }

    /** N28, N31: a condition gets a name in the designer, and stands there by it. */
    @Test
    void aConditionIsNamedAndReadByItsName() {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/workflows/new-fare-rules");
        ines.getByRole(AriaRole.HEADING).first().waitFor();
        button(ines, "About…").or(button(ines, "About")).first().click();
        ines.getByRole(AriaRole.TAB, new Page.GetByRoleOptions().setName("Conditions"))
                .click();
        ines.getByPlaceholder("urgentAtNight").fill("two words");
        ines.getByPlaceholder("urgentAtNight").press("Tab");
        ines.getByPlaceholder("urgentAtNight").fill("veryUrgent");
        button(ines, "Name a condition").click();
        assertThat(ines.getByText("is.veryUrgent").first()).isVisible();
    }
}
