package dastur.e2e;

import com.microsoft.playwright.Locator;

/** Chooses in a field that opens a list, as a person does. */
final class Pick {
    private Pick() {}

    /** @param value what the choice stands for */
    static void choose(Locator field, String value) {
        field.click();
        field.page()
                .locator("[role=option][data-choice=\"" + value.replace("\"", "\\\"") + "\"]")
                .click();
    }

    /** Chooses what holds the words; what is said may carry numbers and counts beside them. */
    static void byWords(Locator field, String words) {
        field.click();
        field.page()
                .locator("[role=option]")
                .filter(new Locator.FilterOptions().setHasText(words))
                .first()
                .click();
    }
}
