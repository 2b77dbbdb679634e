# The answer of each result in a sentence or two, made from its codes, and the table (or list of tables) to show
# first. One file a verb: R/show-headline-<verb>.R.

headline <- function(x) UseMethod("headline")
first_look <- function(x) UseMethod("first_look")

#' @export
first_look.default <- function(x) x$tables[[1]]

# "= .022", "< .001"
p_words <- function(p) {
  if (is.na(p)) {
    return("not defined")
  }
  text <- format_number(p, "p")
  if (startsWith(text, "<")) sub("<", "< ", text) else paste("=", text)
}
