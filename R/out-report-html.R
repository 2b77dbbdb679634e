# A report as one HTML file without anything from the network. Whatever comes from data is escaped.

# Text with `code` in it.
html_text <- function(x) html_code(unbroken(escape_html(x)))

html_code <- function(x) gsub("`([^`]*)`", "<code>\\1</code>", x)

# Signs stay on the line of their number.
unbroken <- function(x) gsub(" (&lt;|&gt;|=|\u2265|\u2264) (-?[0-9]*\\.?[0-9])", "\u00a0\\1\u00a0\\2", x)

escape_html <- function(x) {
  x <- visible_directions(visible_controls(x))
  x <- gsub("&", "&amp;", x, fixed = TRUE)
  x <- gsub("<", "&lt;", x, fixed = TRUE)
  gsub(">", "&gt;", gsub("\"", "&quot;", x, fixed = TRUE), fixed = TRUE)
}

write_html_report <- function(document, path) {
  settings <- document$settings
  blocks <- numbered_headings(document$blocks)
  main <- vapply(blocks, html_block, "", settings = settings)
  by <- if (nzchar(settings$author)) paste0("<p class=\"author\">", escape_html(settings$author), "</p>")
  writeLines(c(
    "<!DOCTYPE html>", paste0("<html lang=\"", settings$language, "\" data-theme=\"", settings$theme, "\">"), "<head>", "<meta charset=\"utf-8\">",
    "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">", paste0("<title>", escape_html(settings$title), "</title>"),
    "<link rel=\"icon\" href=\"data:,\">", "<style>", readLines(report_file("report.css"), warn = FALSE), "</style>", "</head>", "<body>",
    paste0("<a class=\"skip\" href=\"#main\">", settings$words$skip, "</a>"),
    paste0("<header><h1 class=\"title\">", escape_html(settings$title), "</h1>", by, "</header>"), html_contents(blocks, settings),
    "<main id=\"main\">", main, "</main>", "</body>", "</html>"
  ), path, useBytes = TRUE)
}

# Each heading gets a name to link to.
numbered_headings <- function(blocks) {
  lapply(seq_along(blocks), function(i) {
    if (blocks[[i]]$kind == "heading") blocks[[i]]$id <- paste0("part-", i)
    blocks[[i]]
  })
}

html_contents <- function(blocks, settings) {
  heads <- Filter(function(b) b$kind == "heading" && b$level == 1, blocks)
  links <- vapply(heads, function(b) paste0("<li><a href=\"#", b$id, "\">", escape_html(b$text), "</a></li>"), "")
  c(paste0("<nav aria-label=\"", escape_html(settings$words$contents), "\"><ul>"), links, "</ul></nav>")
}

html_block <- function(b, settings) {
  switch(b$kind,
    heading = paste0("<h", b$level, " id=\"", b$id, "\">", escape_html(b$text), "</h", b$level, ">"),
    paragraph = paste0("<p", if (nzchar(b$class)) paste0(" class=\"", b$class, "\""), ">", html_text(b$text), "</p>"),
    bullets = paste0("<ul class=\"notes\">\n", paste0("<li>", html_text(b$items), "</li>", collapse = "\n"), "\n</ul>"),
    answers = paste0("<dl class=\"short\">\n", paste0("<dt>", escape_html(b$questions), "</dt><dd>", html_text(b$answers), "</dd>", collapse = "\n"),
      "\n</dl>"),
    table = html_table(b, settings$words), figure = html_figure(b, settings$words),
    code = paste0("<pre tabindex=\"0\">", paste(escape_html(b$lines), collapse = "\n"), "</pre>")
  )
}

# A table of more rows scrolls on a screen.
long_table <- 30

# In the form psychology journals use: numbered caption, rules only above and below, note
# beneath. Numbers have plain minus signs, so that a spreadsheet takes them.
html_table <- function(b, words) {
  class <- ifelse(b$numeric, " class=\"number\"", "")
  head <- paste0("<th scope=\"col\"", class, ">", escape_html(names(b$columns)), "</th>", collapse = "")
  cells <- Map(function(text, class) paste0("<td", class, ">", html_code(escape_html(text)), "</td>"), b$columns, class)
  body <- paste0("<tr>", do.call(paste0, unname(cells)), "</tr>", collapse = "\n")
  if (b$rows == 0) body <- paste0("<tr><td colspan=\"", length(b$columns), "\">", words$none, "</td></tr>")
  label <- paste(words$table, b$number)
  long <- b$rows > long_table
  paste0(
    "<div class=\"table", if (long) " long", "\" role=\"region\" tabindex=\"0\" aria-label=\"", label, "\"><table>\n<caption><span class=\"label\">",
    label, "</span> ", escape_html(b$caption), if (long) paste0("<span class=\"rows\">", b$rows, " ", words$rows, "</span>"),
    "</caption>\n<thead><tr>", head, "</tr></thead>\n<tbody>\n", body, "\n</tbody></table>\n",
    if (nzchar(b$note)) paste0("<p class=\"note\"><em>", words$note, "</em> ", escape_html(b$note), "</p>\n"), "</div>"
  )
}

html_figure <- function(b, words) {
  data <- jsonlite::base64_enc(readBin(b$file, "raw", file.size(b$file)))
  paste0(
    "<figure><img src=\"data:image/png;base64,", gsub("\n", "", data, fixed = TRUE), "\" width=\"", figure_width, "\" height=\"",
    figure_height(b$figure), "\" alt=\"", escape_html(b$alt), "\"><figcaption><span class=\"label\">", words$figure, " ", b$number, "</span> ",
    escape_html(b$caption),
      "</figcaption></figure>"
  )
}
