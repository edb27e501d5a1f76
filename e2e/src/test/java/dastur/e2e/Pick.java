package dastur.e2e;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.TimeoutError;

/** Chooses in a field that opens a list, as a person does. */
final class Pick {
    private Pick() {}

    /** @param value what the choice stands for */
    static void choose(Locator field, String value) {
        open(field, field.page().locator("[role=option][data-choice=\"" + value.replace("\"", "\\\"") + "\"]"))
                .click();
    }

    /** Chooses what holds the words; what is said may carry numbers and counts beside them. */
    static void byWords(Locator field, String words) {
        open(
                        field,
                        field.page()
                                .locator("[role=option]")
                                .filter(new Locator.FilterOptions().setHasText(words))
                                .first())
                .click();
    }

    /** A list that was opened in the moment in which another one closed goes with it: a person opens it again. */
    private static Locator open(Locator field, Locator option) {
        field.click();
        try {
            option.waitFor(new Locator.WaitForOptions().setTimeout(5_000));
        } catch (TimeoutError e) {
            if ("false".equals(field.getAttribute("aria-expanded"))) {
                field.click();
            }
        }
        return option;
    }
}
