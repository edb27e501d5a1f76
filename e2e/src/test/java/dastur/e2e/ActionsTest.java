package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.assertions.LocatorAssertions;
import com.microsoft.playwright.options.AriaRole;
import dastur.standins.Faults;
import java.time.Instant;
import java.util.concurrent.locks.LockSupport;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.Assertions;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** An action is checked, tried dry and in earnest, and becomes another version, all on its page (M1 to M3). */
class ActionsTest {
    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Page lane() {
        Page ines = stage.as("Ines Okafor-Lind");
        Browser.go(ines, "Automation");
        ines.getByLabel("Find among").fill("close lane");
        ines.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Close a lane"))
                .click();
        assertThat(region(ines, "Who uses it")).containsText("Gate lane stuck open");
        return ines;
    }

    private static Locator region(Page page, String name) {
        return page.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName(name));
    }

    @Test
    void anActionIsTriedPointedAtAndBecomesAnotherVersion() {
        Page ines = lane();
        Locator tries = region(ines, "Try it");
        Locator gate = tries.getByLabel("Gate (needed)");
        gate.click();
        ines.locator("[cmdk-input]").fill("GNQ-G4");
        ines.locator("[role=option][data-choice=GNQ-G4]").click();
        button(ines, "Show what would be sent").click();
        assertThat(tries).containsText("This would be sent. Nothing was.");
        assertThat(tries).containsText("/lanes/GNQ-G4/close");
        Assertions.assertFalse(stage.app.standins().lanes().closedLanes().containsKey("GNQ-G4"), "nothing was sent");

        Locator send = button(ines, "Send it: it changes the world");
        assertThat(send).isDisabled();
        tries.getByLabel("Why it is tried in earnest, for the journal").fill("before the season");
        send.click();
        Locator came = ines.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What came of it"));
        assertThat(came).containsText("ok");
        assertThat(came).containsText("read as Lock number");
        Assertions.assertTrue(stage.app.standins().lanes().closedLanes().containsKey("GNQ-G4"), "it was sent");

        button(ines, "Read /status as an output").click();
        assertThat(ines.locator("main")).containsText("This is version 2");
        button(ines, "Save as 2").click();
        assertThat(ines.locator("header")).containsText("version 2");
        assertThat(region(ines, "Who uses it")).containsText("with version 1; publish it anew to use 2");

        // Nobody uses version 2 yet, so that its mend needs no reason.
        ines.getByLabel("Time limit").fill("25 s");
        assertThat(ines.locator("main")).containsText("nobody uses it yet");
        button(ines, "Save as 2.1").click();
        assertThat(ines.locator("header")).containsText("version 2.1");
        button(ines, "Take version 1 into the form").click();
        assertThat(ines.locator("main")).containsText("This is version 3");
        button(ines, "Undo all").click();
        assertThat(button(ines, "Undo all")).hasCount(0);
    }

    /** M5: who keeps an action is asked on the desk, and says who may use it. */
    @Test
    void itsKeeperIsAskedToLookAgainAndSaysWhoMayUseIt() {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.getByRole(
                        AriaRole.LINK,
                        new Page.GetByRoleOptions().setName(Pattern.compile("^Look again at “Launch a machine”")))
                .click();
        Locator terms = region(ines, "Who may use it");
        assertThat(terms).containsText("Workflows whose owner is in Change board may use it");
        assertThat(terms).containsText("To be looked at again by");
        button(ines, "All of it is right still").click();
        assertThat(button(ines, "All of it is right still")).hasCount(0);
        button(ines, "Change…").click();
        button(ines, "Without Change board").click();
        ines.getByLabel("On tickets whose CI stands at").fill("Mooring Data Room");
        button(ines, "Save").click();
        assertThat(terms).containsText("Every workflow may use it.");
        assertThat(terms).containsText("On tickets whose CI stands at Mooring Data Room alone.");
        Browser.go(ines, "Desk");
        assertThat(ines.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName(Pattern.compile("^Look again"))))
                .hasCount(0);
        Browser.go(ines, "Automation");
        ines.getByLabel("Find among").fill("ines launch");
        assertThat(region(ines, "Actions")).containsText("kept by Ines Okafor-Lind");
    }

    /** M6: a test lists what a connection's actions need, and does none of it. */
    @Test
    void aConnectionIsTestedAndSaysWhatEachOfItsRightsIsFor() {
        Page ines = stage.as("Ines Okafor-Lind");
        Browser.go(ines, "Automation");
        button(ines, "Test… Sales ledger").click();
        Locator found = ines.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What was found out"));
        assertThat(found).containsText("It lets us in with the secret standins.");
        assertThat(found).containsText("Make a sale void: it may");
        stage.app.standins().faults().set("ledger", Faults.Fault.REFUSES);
        try {
            button(ines, "Test it again").click();
            assertThat(found).containsText("Make a sale void: it may not");
            assertThat(found).containsText("permission denied for table sale");
        } finally {
            stage.app.standins().faults().set("ledger", Faults.Fault.NONE);
        }
    }

    private static Locator tried(Page page, String action, String verb) {
        page.navigate(stage.address() + "/actions/" + action);
        Locator tries = region(page, "Try it");
        assertThat(tries).isVisible();
        if (action.equals("parts.look")) {
            tries.getByLabel("Part (needed)").fill("SP-102");
        }
        button(page, verb).click();
        return page.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What came of it"));
    }

    /** M6, M10: a token is fetched, pages are read as one, a part is XML and an order a form. */
    @Test
    void anOldSystemIsSpokenToInItsOwnFormats() {
        Page ines = stage.as("Ines Okafor-Lind");
        Locator list = tried(ines, "parts.list", "Send it");
        assertThat(list).containsText("ok");
        assertThat(list).containsText("SP-101");
        assertThat(list).containsText("SP-410");
        Locator part = tried(ines, "parts.look", "Send it");
        assertThat(part).containsText("Lane lock & plate");
        assertThat(part).containsText("In stock 11");
        ines.navigate(stage.address() + "/actions/parts.order");
        Locator tries = region(ines, "Try it");
        tries.getByLabel("Part (needed)").fill("SP-204&for=nobody");
        tries.getByLabel("For (needed)").click();
        ines.locator("[cmdk-input]").fill("kiosk-03");
        ines.locator("[role=option][data-choice=kiosk-03]").click();
        button(ines, "Show what would be sent").click();
        assertThat(tries).containsText("part=SP-204%26for%3Dnobody&for=kiosk-03");
        tries.getByLabel("Part (needed)").fill("SP-204");
        tries.getByLabel("Why it is tried in earnest, for the journal").fill("the printer of kiosk-03");
        button(ines, "Send it: it changes the world").click();
        assertThat(ines.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What came of it")))
                .containsText("O-501");
        Assertions.assertEquals(
                java.util.Map.of("O-501", "SP-204 for kiosk-03"),
                stage.app.standins().parts().ordered());
        assertThat(ines.locator("main")).containsText("Sent as");
    }

    @Test
    void howAConnectionSignsInIsSaidWithoutItsSecret() {
        Page halvard = stage.as("Halvard Quist");
        Browser.go(halvard, "Automation");
        button(halvard, "Change Parts store").click();
        assertThat(halvard.getByLabel("How it signs in")).containsText("for a token of a client");
        assertThat(halvard.getByLabel("Client", new Page.GetByLabelOptions().setExact(true)))
                .hasValue("dastur");
        halvard.getByLabel("Where tokens are given").fill("https://elsewhere.example/token");
        button(halvard, "Save").click();
        assertThat(halvard.getByRole(AriaRole.DIALOG)).containsText("among the further hosts too");
        button(halvard, "Cancel").click();
    }

    @Test
    void whatIsWrongIsSaidWhereItIsTypedAndNothingTypedIsLost() {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/actions/board.look");
        Locator body = ines.getByLabel("Command, word by word");
        body.fill("[\"board\", {{ input.board }}]");
        assertThat(region(ines, "What is wrong with it")).containsText("Mend this first");
        assertThat(button(ines, "Save as 1.1")).isDisabled();
        ines.reload();
        assertThat(ines.getByLabel("Command, word by word")).hasValue("[\"board\", {{ input.board }}]");
        body.fill("[\"board\",\"look\",\"{{ input.board }}\",\"now\"]");
        assertThat(region(ines, "What is wrong with it")).hasCount(0);
        assertThat(ines.locator("main")).containsText("gets it from the next step on");
        assertThat(button(ines, "Save as 1.1")).isDisabled();
        ines.getByLabel("Why, for the journal").fill("the gateway wants to know when");
        button(ines, "Save as 1.1").click();
        assertThat(ines.locator("header")).containsText("version 1.1");
        assertThat(region(ines, "Its versions")).containsText("the gateway wants to know when");
    }

    /** A walk through pages is put together in sentences, shown, and made; what does not hold is told (M12). */
    @Test
    void aWalkIsWrittenInSentencesAndMade() {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/actions/shop.trial");
        Locator tries = region(ines, "Try it");
        tries.getByLabel("Day (needed)").fill("14 December");
        tries.getByLabel("Sailing (needed)").fill("09:20");
        tries.getByLabel("Price of an adult (needed)").fill("12.40");
        button(ines, "Leave out step 19").click();
        button(ines, "Add a step").click();
        Pick.byWords(ines.getByLabel("Step 19", new Page.GetByLabelOptions().setExact(true)), "Expect not to see");
        ines.getByLabel("Step 19: Text").fill("A trial ticket");
        button(ines, "Show what would be sent").click();
        assertThat(tries).containsText("11. Type the secret into “Trial code”");
        assertThat(tries).containsText("19. Expect not to see “A trial ticket”");
        Assertions.assertTrue(stage.app.standins().shop().sold().isEmpty(), "nothing was bought");

        tries.getByLabel("Why it is tried in earnest, for the journal").fill("before the season");
        button(ines, "Send it: it changes the world").click();
        Locator came = ines.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What came of it"));
        assertThat(came).containsText("a check failed", new LocatorAssertions.ContainsTextOptions().setTimeout(60_000));
        assertThat(came).containsText("Number of the ticket KF-7001");
        assertThat(came).containsText("The page says: Kestrel Ferries");
        Assertions.assertEquals(
                "14 December",
                stage.app.standins().shop().sold().get("KF-7001").sailing().split(", ")[1]);

        ines.getByLabel("Step 19: Text").fill("");
        assertThat(region(ines, "What is wrong with it")).containsText("Step 19 has nothing");
        button(ines, "Undo all").click();
    }

    /** Whoever waits for a call reads why it does not go out; when it may, it goes. */
    @Test
    void callsOverAConnectionAreHeldBackAndLetOut() {
        Page halvard = stage.as("Halvard Quist");
        Browser.go(halvard, "Automation");
        button(halvard, "Hold calls back… over Lane controller").click();
        halvard.getByLabel("Why").fill("The controller moves to another rack.");
        button(halvard, "Hold them back").click();
        Locator connections = region(halvard, "Connections");
        assertThat(connections).containsText("Halvard Quist holds them back. The controller moves to another rack.");

        Page teo = stage.as("Teo Marchetti");
        teo.locator("li button")
                .filter(new Locator.FilterOptions().setHasText("I-1045"))
                .click();
        teo.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Approve and close the lane"))
                .first()
                .click();
        Page ada = stage.as("Ada Brandvold");
        ada.navigate(stage.address() + "/tickets/I-1045");
        assertThat(region(ada, "Machines at work")).containsText("Calls over Lane controller wait since");
        assertThat(region(ada, "Machines at work")).containsText("another rack");
        Assertions.assertFalse(stage.app.standins().lanes().closedLanes().containsKey("ALD-G3"), "nothing was sent");

        button(halvard, "Let calls out… over Lane controller").click();
        halvard.getByLabel("Why").fill("It is there.");
        button(halvard, "Let them out").click();
        assertThat(connections.getByText("holds them back")).hasCount(0);
        assertThat(region(ada, "Machines at work")).hasCount(0);
        Assertions.assertTrue(stage.app.standins().lanes().closedLanes().containsKey("ALD-G3"), "it was sent");
    }

    /** A board freezes while restarting is withdrawn: nothing is sent, whoever looks after it reads why, and it goes on once it may. */
    @Test
    void nothingBeginsByWhatIsWithdrawn() {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/actions/board.restart");
        button(ines, "Withdraw… version 1").click();
        assertThat(ines.getByRole(AriaRole.DIALOG))
                .containsText("Used by “Frozen departure board” (Restart the board).");
        ines.getByLabel("Why", new Page.GetByLabelOptions().setExact(true))
                .fill("It wipes the timetable of the board.");
        button(ines, "Withdraw it").click();
        assertThat(region(ines, "Its versions")).containsText("1.1 withdrawn Ines Okafor-Lind");

        stage.app.standins().devices().freeze("ALD-06", true);
        Browser.go(ines, "Signals");
        Browser.reloadUntil(ines, ines.getByText(Pattern.compile("Board 6 at Alder Pier stands still.*I-\\d+")));
        ines.getByText("Board 6 at Alder Pier stands still").first().click();
        ines.getByRole(AriaRole.COMPLEMENTARY, new Page.GetByRoleOptions().setName("The matter"))
                .getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName(Pattern.compile("^I-\\d+$")))
                .first()
                .click();
        Locator stalled = region(ines, "Restart the board");
        assertThat(stalled).containsText("was withdrawn: It wipes the timetable of the board.");
        Assertions.assertEquals("stands still", stage.app.standins().devices().picture("ALD-06"), "nothing was sent");
        String ticket = ines.url();

        ines.navigate(stage.address() + "/actions/board.restart");
        button(ines, "Let version 1 be used again").click();
        assertThat(button(ines, "Withdraw… version 1")).isVisible();
        ines.navigate(ticket);
        button(ines, "Try again").click();
        stalled.getByLabel("Why: Try again").fill("The timetable is kept now.");
        stalled.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Do it"))
                .click();
        assertThat(stalled).hasCount(0);
        Instant end = Instant.now().plusSeconds(30);
        while (stage.app.standins().devices().picture("ALD-06").equals("stands still")) {
            Assertions.assertTrue(Instant.now().isBefore(end), "it was restarted");
            LockSupport.parkNanos(20_000_000);
        }
    }

    @Test
    void whoeverDoesNotDesignSeesItAndChangesNothing() {
        Page runa = stage.as("Runa Feld");
        runa.navigate(stage.address() + "/actions/lane.close");
        assertThat(region(runa, "Who uses it")).containsText("Gate lane stuck open");
        assertThat(runa.getByLabel("Time limit")).isDisabled();
        assertThat(region(runa, "Try it")).hasCount(0);
    }
}
