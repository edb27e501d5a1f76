package dastur.e2e;

import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** axe finds nothing serious on any screen, by day and by night. */
class AccessibleTest {
    /** Every place of somebody who designs, by its address. */
    static final List<String> PLACES = List.of(
            "/desk",
            "/tickets",
            "/tickets/I-1045",
            "/tickets/C-311",
            "/runs",
            "/workflows",
            "/workflows/gate-lane-stuck-open",
            "/people",
            "/on-call",
            "/services",
            "/automation",
            "/automation/zones",
            "/actions/lane.close",
            "/actions/shop.trial",
            "/signals?matter=ald-07%2Fstands%20still",
            "/starts",
            "/starts/certificates-watched-daily",
            "/starts/booking-site-slow-hook",
            "/watches/kiosks-heard",
            "/partners",
            "/partners/lane-supplier",
            "/partners/lane-supplier?tab=log",
            "/partners/lane-supplier?tab=joined",
            "/subscriptions",
            "/subscriptions/harbour-office",
            "/sources",
            "/sources/board-monitor?tab=send",
            "/sources/gate-log?tab=send",
            "/sources/nightly-copies?tab=send",
            "/sources/board-monitor?tab=came",
            "/sources/board-monitor?tab=means",
            "/cis/ALD-G1",
            "/compare?before=ci:GNQ-GW1&after=ci:NSL-GW1&all=true",
            "/answers",
            "/keeping",
            "/undelivered",
            "/begin",
            "/tickets/I-1045?after=6");

    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    @ParameterizedTest
    @ValueSource(strings = {"light", "dark"})
    void nothingSeriousOnAnyScreen(String theme) {
        Page entrance = stage.newPage();
        entrance.navigate(stage.address());
        entrance.getByText("Ines Okafor-Lind").waitFor();
        Axe.check(entrance, "sign-in", theme);
        Page ines = stage.as("Ines Okafor-Lind");
        stage.app.standins().devices().needsPart("ALD-07", true);
        ines.navigate(stage.address() + "/signals");
        Browser.reloadUntil(ines, ines.getByText("Board 7 at Alder Pier stands still"));
        for (String place : PLACES) {
            ines.navigate(stage.address() + place);
            ines.getByRole(AriaRole.HEADING).first().waitFor();
            Axe.check(ines, place, theme);
        }
        ines.navigate(stage.address() + "/workflows/gate-lane-stuck-open");
        ines.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("when an incident is raised"))
                .click();
        ines.getByRole(AriaRole.DIALOG).waitFor();
        Axe.check(ines, "triggers", theme);
        ines.keyboard().press("Escape");
        ines.keyboard().press("t");
        ines.getByLabel("Notation").waitFor();
        Axe.check(ines, "text beside the route", theme);
        Page teo = stage.as("Teo Marchetti");
        teo.getByText("Look at the gate").first().waitFor();
        // The case comes right after what is asked.
        teo.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Route of "))
                .first()
                .waitFor();
        Axe.check(teo, "a full desk", theme);
        teo.keyboard().press("Control+k");
        teo.getByPlaceholder("A ticket, workflow, person, CI, place…").fill("gate");
        teo.getByText("Gate lane stuck open").first().waitFor();
        Axe.check(teo, "finder", theme);
        Page halvard = stage.as("Halvard Quist");
        halvard.navigate(stage.address() + "/channels");
        halvard.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Sending mail"))
                .waitFor();
        Axe.check(halvard, "mail and chat", theme);
        Page mira = stage.as("Mira Solheim");
        mira.getByText("What you asked").waitFor();
        Axe.check(mira, "the page of those who ask", theme);
        Browser.go(mira, "Tickets");
        mira.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Ask for help"))
                .click();
        mira.getByRole(AriaRole.DIALOG).waitFor();
        Axe.check(mira, "raise", theme);
    }
}
