package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.Map;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Accounts, seeing as somebody else, rotas, CIs, actions: set up through the screens (N5, N14, N20, N80). */
class OrganisationTest {
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

    private static Locator dialog(Page page) {
        return page.getByRole(AriaRole.DIALOG);
    }

    /** K10, K11: an administrator goes through all that is kept and takes a copy; others see how it stands. */
    @Test
    void whatIsKeptIsGoneThroughAndCopied() {
        Page halvard = stage.as("Halvard Quist");
        Browser.go(halvard, "Keeping");
        button(halvard, "Go through everything").click();
        halvard.getByText("All as written.").waitFor();
        button(halvard, "Take a copy").click();
        halvard.getByText(java.util.regex.Pattern.compile("^20\\d\\d-\\d\\d-\\d\\dT\\d{6}Z$"))
                .waitFor();
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Keeping");
        ada.getByText("All as written.").waitFor();
        assertThat(button(ada, "Take a copy")).isHidden();
        Browser.go(halvard, "Journal");
        halvard.getByText("copy").first().waitFor();
    }

    @Test
    void anAccountIsMadeSeenAsAndShutAndTheJournalTellsIt() {
        Page halvard = stage.as("Halvard Quist");
        Browser.go(halvard, "People");
        button(halvard, "New account").click();
        halvard.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("Nils Aaberg");
        halvard.getByLabel("Mail").fill("teo@kestrel.example");
        dialog(halvard).getByLabel("Network & radio").check();
        button(halvard, "Save").click();
        assertThat(dialog(halvard).getByText("Somebody else has this address")).isVisible();
        halvard.getByLabel("Mail").fill("nils@kestrel.example");
        button(halvard, "Save").click();
        assertThat(dialog(halvard)).hasCount(0);

        button(halvard, "Nils Aaberg").click();
        button(halvard, "See Dastur as Nils Aaberg").click();
        assertThat(halvard.getByText("You see Dastur as Nils Aaberg")).isVisible();
        assertThat(halvard.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Journal")))
                .hasCount(0);
        button(halvard, "Be myself again").click();
        assertThat(button(halvard, "New account")).isVisible();

        Browser.go(halvard, "Journal");
        assertThat(halvard.getByText("person nils-aaberg no longer seen as")).isVisible();
        assertThat(halvard.getByText("person nils-aaberg made")).isVisible();
    }

    @Test
    void anAddressOfWhatIsNotThereSaysWhereElseToGo() {
        Page ines = stage.as("Ines Okafor-Lind");
        Map<String, String> places = Map.of(
                "/tickets/I-9", "All tickets",
                "/workflows/no-such", "All workflows",
                "/cis/no-such", "All services and CIs");
        places.forEach((address, elsewhere) -> {
            ines.navigate(stage.address() + address);
            Locator trouble = ines.getByRole(AriaRole.ALERT);
            assertThat(trouble.getByText("Try again")).hasCount(0);
            trouble.getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName(elsewhere))
                    .click();
            ines.waitForURL(stage.address()
                    + address.substring(0, address.lastIndexOf('/')).replace("/cis", "/services") + "**");
            assertThat(ines.getByRole(AriaRole.ALERT)).hasCount(0);
        });
    }

    @Test
    void aRotaIsMadeItsGapIsSeenAndALadderTellsWhomItWouldReach() {
        Page ines = stage.as("Ines Okafor-Lind");
        Browser.go(ines, "On call");
        assertThat(ines.getByText(Pattern.compile("nobody [789] times in 8 weeks")))
                .isVisible();
        button(ines, "New rota").click();
        ines.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("Crew on call");
        Pick.choose(ines.getByLabel("Take turns"), "aino");
        ines.getByLabel("First turn begins").fill("2026-01-05T08:00");
        button(ines, "Save").click();
        Locator crew = ines.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Crew on call"));
        assertThat(crew.getByText("Aino Peralta").first()).isVisible();

        crew.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Somebody stands in…"))
                .click();
        Pick.choose(ines.getByLabel("Who", new Page.GetByLabelOptions().setExact(true)), "birk");
        button(ines, "They stand in").click();
        assertThat(crew.locator("strong").getByText("Birk Adeyemi")).isVisible();

        ines.locator("section")
                .filter(new Locator.FilterOptions().setHas(ines.getByText("Duty ladder")))
                .last()
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Who would be reached…"))
                .click();
        assertThat(dialog(ines).getByText("Pavel Ingstad").first()).isVisible();
        ines.keyboard().press("Escape");

        // R8, D10: days and now on the axis; a ladder is changed where it is seen.
        assertThat(crew.getByLabel("now")).hasCount(1);
        ines.locator("section")
                .filter(new Locator.FilterOptions().setHas(ines.getByText("Duty ladder")))
                .last()
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Change…"))
                .click();
        ines.getByLabel("Rung 1, after").fill("12 min");
        button(ines, "Keep the change").click();
        assertThat(ines.getByText("12 min").first()).isVisible();
    }

    /** What CIs of a kind have is declared on screen, asked for where one is set, and told where it is lacking (M17). */
    @Test
    void kindsOfCisHaveAttributesOfTheirOwn() {
        Page ines = stage.as("Ines Okafor-Lind");
        Browser.go(ines, "Services");
        button(ines, "Fields…").click();
        button(ines, "Add an attribute of CIs").click();
        Locator label = dialog(ines)
                .getByLabel("Field", new Locator.GetByLabelOptions().setExact(true))
                .last();
        label.fill("Depth at low water");
        label.blur();
        dialog(ines).getByLabel("Kinds that have “Depth at low water”").fill("berth");
        dialog(ines).getByLabel("needed").last().click();
        button(ines, "Save").click();
        assertThat(dialog(ines)).hasCount(0);

        button(ines, "New CI").click();
        ines.getByLabel("Id", new Page.GetByLabelOptions().setExact(true)).fill("NSL-B1");
        ines.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("Berth 1");
        ines.getByLabel("Kind", new Page.GetByLabelOptions().setExact(true)).fill("gate");
        assertThat(dialog(ines).getByLabel("Depth at low water (needed)")).hasCount(0);
        ines.getByLabel("Kind", new Page.GetByLabelOptions().setExact(true)).fill("berth");
        assertThat(dialog(ines).getByLabel("Depth at low water (needed)")).isVisible();
        assertThat(dialog(ines).getByLabel("Lane")).hasCount(0);
        button(ines, "Save").click();
        assertThat(ines.getByText("incomplete: Depth at low water")).isVisible();
        button(ines, "Change").click();
        dialog(ines).getByLabel("Depth at low water (needed)").fill("4.5 m");
        button(ines, "Save").click();
        assertThat(ines.getByText("4.5 m")).isVisible();
        assertThat(ines.getByText("incomplete:")).hasCount(0);
    }

    @Test
    void aCiIsMadeFoundAndChangedAndCsvIsTriedBeforeItIsTakenOver() {
        Page ines = stage.as("Ines Okafor-Lind");
        Browser.go(ines, "Services");
        button(ines, "New CI").click();
        ines.getByLabel("Id", new Page.GetByLabelOptions().setExact(true)).fill("NSL-T1");
        ines.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("Test gate");
        ines.getByLabel("Kind").fill("gate");
        button(ines, "Add a neighbour").click();
        ines.getByLabel("How").fill("runs on");
        ines.getByLabel("To the CI").fill("no-such-ci");
        button(ines, "Save").click();
        assertThat(dialog(ines).getByText("is no other CI")).isVisible();
        ines.getByLabel("To the CI").fill("book-web-1");
        button(ines, "Save").click();
        assertThat(ines.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("Test gate")))
                .isVisible();
        Locator drawn = ines.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Neighbours, drawn"));
        assertThat(drawn.getByText("Booking web node 1")).isVisible();
        // Two steps away, and from there back to what rests on it.
        drawn.getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName("Booking database 1"))
                .click();
        assertThat(ines.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("Booking database 1")))
                .isVisible();
        assertThat(drawn.getByText("Test gate")).isVisible();
        assertThat(drawn.getByText("Booking database 2")).isVisible();

        Browser.go(ines, "Services");
        button(ines, "CIs from CSV…").click();
        ines.getByLabel("or its text")
                .fill("id,name,kind,life\nNSL-T1,Tested gate,gate,in use\nNSL-T2,Other,gate,lost");
        button(ines, "See what it would do").click();
        assertThat(dialog(ines).getByText("1 wrong")).isVisible();
        ines.getByLabel("or its text").fill("id,name,kind,life\nNSL-T1,Tested gate,gate,in use");
        button(ines, "See what it would do").click();
        button(ines, "Take 1 over").click();
        // As a person would: searching goes on when the dialog says that it is done.
        assertThat(dialog(ines)).hasCount(0);
        ines.getByLabel("Find a CI").fill("NSL-T1");
        assertThat(ines.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Tested gate")))
                .isVisible();
    }

    /** M6: a secret is typed unseen, used by a connection, and then cannot be taken away. */
    @Test
    void aSecretIsSetOnScreenAndUsed() {
        Page halvard = stage.as("Halvard Quist");
        Browser.go(halvard, "Automation");
        button(halvard, "New secret").click();
        dialog(halvard).getByLabel("Name").fill("supplier-desk");
        dialog(halvard).getByLabel("Value").fill("not to be read again");
        button(halvard, "Keep it").click();
        assertThat(dialog(halvard)).hasCount(0);
        Locator secrets = halvard.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Secrets"));
        Locator row =
                secrets.getByRole(AriaRole.LISTITEM).filter(new Locator.FilterOptions().setHasText("supplier-desk"));
        assertThat(row).containsText("used by no connection");
        assertThat(row.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Remove supplier-desk")))
                .isVisible();
        button(halvard, "Change The supplier's ticket desk").click();
        Pick.choose(dialog(halvard).getByLabel("Signs in with the secret"), "supplier-desk");
        button(halvard, "Save").click();
        assertThat(dialog(halvard)).hasCount(0);
        assertThat(row).containsText("used by The supplier's ticket desk");
        assertThat(row.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Remove supplier-desk")))
                .hasCount(0);
        assertThat(halvard.locator("body")).not().containsText("not to be read again");
        // As it was, for the others.
        button(halvard, "Change The supplier's ticket desk").click();
        Pick.choose(dialog(halvard).getByLabel("Signs in with the secret"), "standins");
        button(halvard, "Save").click();
        assertThat(dialog(halvard)).hasCount(0);
    }

    /** N15: a variant under a name of its own; then it is there for workflows. */
    @Test
    void aVariantOfAnActionIsMadeAndOfferedInTheDesigner() {
        Page halvard = stage.as("Halvard Quist");
        Browser.go(halvard, "Automation");
        button(halvard, "A variant of Close a lane").click();
        halvard.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("Close a lane for the night");
        button(halvard, "Save").click();
        assertThat(dialog(halvard)).hasCount(0);
        halvard.getByLabel("Find among").fill("night");
        assertThat(halvard.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Close a lane for the night")))
                .isVisible();
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/workflows/gate-lane-stuck-open");
        ines.getByText("Look at the gate").first().click();
        ines.keyboard().press("Enter");
        ines.getByLabel("What happens next").fill("run close a lane for");
        assertThat(ines.getByText("run Close a lane for the night").first()).isVisible();
    }

    /** N28: a group that is missing is made without leaving the workflow. */
    @Test
    void aGroupIsMadeWhileDesigning() {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/workflows/gate-lane-stuck-open");
        ines.getByText("Look at the gate").first().click();
        Pick.choose(ines.getByLabel("Who", new Page.GetByLabelOptions().setExact(true)), "+");
        ines.getByLabel("Name", new Page.GetByLabelOptions().setExact(true))
                .last()
                .fill("Night technicians");
        dialog(ines).getByLabel("Runa Feld").check();
        button(ines, "Save").click();
        assertThat(dialog(ines)).hasCount(0);
        assertThat(ines.getByText("Night technicians").first()).isVisible();
    }

    /** M17: a CI is wished for inside a change, by an agent and by whoever asked for it. */
    @Test
    void aCiIsWishedForInsideAChangeAndTheRequesterSeesHow() {
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Tickets");
        button(ada, "Raise a ticket").click();
        Pick.choose(dialog(ada).getByLabel("Kind"), "change");
        ada.getByLabel("What is the matter, in one line").fill("A board for the new berth");
        Pick.choose(ada.getByLabel("For whom"), "mira");
        button(ada, "Raise it").click();
        ada.waitForURL(Pattern.compile(".*/tickets/C-\\d+"));
        String number = ada.url().substring(ada.url().lastIndexOf('/') + 1);
        button(ada, "Plan a CI…").click();
        dialog(ada).getByLabel("What it is to be called").fill("ALD-01");
        dialog(ada)
                .getByLabel("What it is", new Locator.GetByLabelOptions().setExact(true))
                .fill("board");
        dialog(ada).getByLabel("Where it stands").fill("ALD");
        button(ada, "Plan it").click();
        assertThat(dialog(ada)).containsText("There is a CI 'ALD-01' already: board, in use. Name another.");
        dialog(ada).getByLabel("What it is to be called").fill("ALD-41");
        button(ada, "Plan it").click();
        assertThat(dialog(ada)).hasCount(0);
        assertThat(ada.locator("main")).containsText("Ada Brandvold wishes for the CI ALD-41");
        ada.navigate(stage.address() + "/cis/ALD-41");
        assertThat(ada.locator("main")).containsText("planned");
        assertThat(ada.locator("main")).containsText(number);

        Page mira = stage.as("Mira Solheim");
        mira.navigate(stage.address() + "/tickets/" + number);
        button(mira, "Say what is to be there…").click();
        dialog(mira).getByLabel("What it is to be called").fill("ALD-42");
        dialog(mira)
                .getByLabel("What it is", new Locator.GetByLabelOptions().setExact(true))
                .fill("board");
        button(mira, "Plan it").click();
        assertThat(dialog(mira)).hasCount(0);
        ada.navigate(stage.address() + "/tickets/" + number);
        assertThat(ada.locator("main")).containsText("Mira Solheim wishes for the CI ALD-42");
    }
}
