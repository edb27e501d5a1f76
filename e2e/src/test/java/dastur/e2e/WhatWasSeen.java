package dastur.e2e;

import com.microsoft.playwright.BrowserContext;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.PlaywrightException;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;
import org.junit.jupiter.api.extension.AfterEachCallback;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.jupiter.api.extension.TestExecutionExceptionHandler;

/** Prints what stood in each browser window when a test failed, and closes the windows of a test that is over. */
public final class WhatWasSeen implements TestExecutionExceptionHandler, AfterEachCallback {
    private static final int MOST = 2_500;
    private static final List<BrowserContext> WINDOWS = new CopyOnWriteArrayList<>();

    static BrowserContext watched(BrowserContext window) {
        WINDOWS.add(window);
        return window;
    }

    @Override
    public void handleTestExecutionException(ExtensionContext context, Throwable failure) throws Throwable {
        for (BrowserContext window : WINDOWS) {
            for (Page page : window.pages()) {
                try {
                    String text = page.innerText("body");
                    System.err.println(
                            "--- seen at " + page.url() + "\n" + text.substring(0, Math.min(MOST, text.length())));
                } catch (PlaywrightException e) {
                    System.err.println("--- a window could not be read: " + e.getMessage());
                }
            }
        }
        throw failure;
    }

    @Override
    public void afterEach(ExtensionContext context) {
        for (BrowserContext window : WINDOWS) {
            try {
                window.close();
            } catch (PlaywrightException e) {
                // Its browser is closed already.
            }
        }
        WINDOWS.clear();
    }
}
