/** The demo: Kestrel Sound Ferries, a made-up company on a made-up sound, with workflows, history and live cases. */
@org.jspecify.annotations.NullMarked
package dastur.demo;
