/** By what people are told and heard: what was set on screen, before what was named at the start. */
@NullMarked
package dastur.server.channels;

import org.jspecify.annotations.NullMarked;
