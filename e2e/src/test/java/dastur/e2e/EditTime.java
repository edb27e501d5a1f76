package dastur.e2e;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import org.junit.jupiter.api.Test;

/** Measures how long an edit takes until it is drawn; run by {@code ./dastur bench edit}, never part of the tests. */
class EditTime {
    private static final int ROUNDS = 25;

    /** From the key to the end of the frame that shows it, in milliseconds. */
    private static final String PRESS = """
            ([down, alt]) => new Promise(done => {
              const begun = performance.now();
              window.dispatchEvent(new KeyboardEvent('keydown',
                {key: down ? 'ArrowDown' : 'ArrowUp', altKey: alt, bubbles: true}));
              requestAnimationFrame(() => setTimeout(() => done(performance.now() - begun)));
            })""";

    @Test
    void measure() {
        try (Stage stage = new Stage()) {
            for (int steps : new int[] {12, 60, 300}) {
                Page ines = stage.as("Ines Okafor-Lind");
                ines.navigate(stage.address() + "/workflows");
                ines.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("New workflow"))
                        .click();
                ines.getByLabel("Name", new Page.GetByLabelOptions().setExact(true))
                        .fill("Edit " + steps);
                ines.keyboard().press("Enter");
                ines.getByText("An empty route").waitFor();
                ines.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Text"))
                        .click();
                Locator text = ines.getByLabel("Notation");
                text.waitFor();
                text.press("Control+a");
                ines.keyboard().insertText(notation(steps));
                text.press("Control+Enter");
                ines.locator("[data-step=s" + steps / 2 + "]").click();
                told("edit to drawing", steps, ines, true);
                ines.locator("[data-step=s" + steps / 2 + "]").click();
                told("arrow key to drawing", steps, ines, false);
            }
        }
    }

    /** @param alt whether the step moves, or only what is chosen */
    private static void told(String what, int steps, Page page, boolean alt) {
        List<Double> times = new ArrayList<>();
        for (int i = 0; i < ROUNDS; i++) {
            Object took = page.evaluate(PRESS, List.of(i % 2 == 0, alt));
            times.add(((Number) took).doubleValue());
        }
        Collections.sort(times);
        System.out.printf(
                "%s, %d steps: median %.1f ms, p95 %.1f ms, worst %.1f ms%n",
                what, steps, times.get(ROUNDS / 2), times.get(ROUNDS * 95 / 100), times.getLast());
    }

    private static String notation(int steps) {
        StringBuilder text = new StringBuilder("workflow edit-" + steps + " \"Edit " + steps + "\"\n  owner ines\n\n");
        for (int i = 1; i < steps; i++) {
            text.append("s%d: ask group pier-technicians \"Step %d\" within 30 min: \"Done\"\n".formatted(i, i));
        }
        return text.append("s").append(steps).append(": done \"done\"\n").toString();
    }
}
