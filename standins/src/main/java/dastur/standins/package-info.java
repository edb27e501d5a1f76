/**
 * Small simulated outside systems for the demo and the tests: lane controller, kiosk manager, mailbox. They speak HTTP and
 * SMTP like real ones, and a control page makes things go wrong on purpose.
 */
package dastur.standins;
