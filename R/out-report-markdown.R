# A report as Markdown, and from it, through pandoc, as DOCX.

write_markdown_report <- function(document, draft, path) {
  folder <- paste0(tools::file_path_sans_ext(path), "-figures")
  figures <- vapply(document_figures(document), `[[`, "", "file")
  if (length(figures) > 0) dir.create(folder, showWarnings = FALSE)
  for (figure in figures) write_safely(file.path(folder, basename(figure)), TRUE, function(draft) file.copy(figure, draft))
  writeLines(markdown_lines_of(document, utils::URLencode(basename(folder)), plain = TRUE), draft, useBytes = TRUE)
}

write_docx_report <- function(document, draft) {
  folder <- tempfile("report-")
  dir.create(folder)
  on.exit(unlink(folder, recursive = TRUE))
  source <- file.path(folder, "report.md")
  shown <- normalizePath(unique(dirname(vapply(document_figures(document), `[[`, "", "file"))))
  writeLines(markdown_lines_of(document, shown, plain = FALSE), source, useBytes = TRUE)
  reference <- if (is.null(document$settings$reference)) report_file("reference.docx") else document$settings$reference
  # Whole paths, before pandoc_convert() goes to the folder of its source.
  target <- file.path(normalizePath(dirname(draft)), basename(draft))
  options <- c("--reference-doc", normalizePath(reference), "--metadata", paste0("lang=", document$settings$language))
  rmarkdown::pandoc_convert(source, to = "docx", from = "markdown-implicit_figures-yaml_metadata_block-raw_html-tex_math_dollars-citations",
    output = target, options = options)
}

# shown: what the text calls the figures' folder. plain: for readers of Markdown; else with
# pandoc's styles.
markdown_lines_of <- function(document, shown, plain) {
  settings <- document$settings
  c(
    styled("Title", settings$title, plain, "# "), if (nzchar(settings$author)) styled("Author", settings$author, plain),
    unlist(lapply(document$blocks, markdown_block, settings = settings, shown = shown, plain = plain))
  )
}

styled <- function(style, text, plain, mark = "") {
  if (plain) c(paste0(mark, escape_markdown(text)), "") else c(paste0("::: {custom-style=\"", style, "\"}"), escape_markdown(text), ":::", "")
}

# Characters that would mean something; `code` stays.
escape_markdown <- function(text) {
  text <- gsub("([\\\\*_{}\\[\\]<>#|$~^@])", "\\\\\\1", text, perl = TRUE)
  gsub("^(\\s*)([-+]|\\d+[.)])(\\s)", "\\1\\\\\\2\\3", text)
}

markdown_block <- function(b, settings, shown, plain) {
  words <- settings$words
  switch(b$kind,
    heading = c(paste(strrep("#", b$level + plain), escape_markdown(b$text)), ""), paragraph = c(escape_markdown(b$text), ""),
    bullets = c(paste("-", escape_markdown(b$items)), ""),
    answers = unlist(Map(function(q, a) c(paste0("**", escape_markdown(q), "** ", escape_markdown(a)), ""), b$questions, b$answers),
      use.names = FALSE),
    table = markdown_table(b, words, plain), figure = markdown_figure(b, words, shown, plain), code = c("```", b$lines, "```", "")
  )
}

markdown_table <- function(b, words, plain) {
  width <- mapply(column_share, names(b$columns), b$columns)
  small <- !plain && sum(width) > widest_table
  in_cell <- function(text) if (small) small_text(escape_markdown(text)) else escape_markdown(text)
  columns <- lapply(b$columns, in_cell)
  if (b$rows == 0) columns <- lapply(seq_along(columns), function(j) if (j == 1) words$none else "")
  names(columns) <- in_cell(names(b$columns))
  rule <- paste0(strrep("-", pmax(2, width - 1)), ifelse(b$numeric, ":", "-"))
  table <- pipe_table(columns, rule)
  caption <- paste0("**", words$table, " ", b$number, "** ", escape_markdown(b$caption))
  note <- if (nzchar(b$note)) paste0("*", words$note, "* ", escape_markdown(b$note))
  if (plain) {
    return(c(caption, "", table, "", note, ""))
  }
  c(table, "", paste(":", caption), "", if (!is.null(note)) c("::: {custom-style=\"Table Note\"}", note, ":::", ""))
}

# Header, rule and rows of named columns of text.
pipe_table <- function(columns, rule) {
  rows <- do.call(paste, c(unname(columns), sep = " | "))
  paste0("| ", c(paste(names(columns), collapse = " | "), paste(rule, collapse = " | "), rows), " |")
}

# Characters that fit beside each other on a page of DOCX; what is wider is set smaller.
widest_table <- 84

small_text <- function(text) ifelse(nzchar(text), paste0("[", text, "]{custom-style=\"Table Small\"}"), "")

# How much of the page's width a column wants: its longest word, or its cells where they are short.
column_share <- function(header, cells) {
  words <- nchar(unlist(strsplit(c(header, cells), " ", fixed = TRUE)), "width")
  max(words, min(28, max(nchar(cells, "width"), 0)), 3) + 2
}

markdown_figure <- function(b, words, shown, plain) {
  caption <- paste0("**", words$figure, " ", b$number, "** ", escape_markdown(b$caption))
  image <- paste0("![", escape_markdown(b$alt), "](", shown, "/", basename(b$file), ")", if (!plain) "{width=6.4in}")
  c(image, "", if (plain) caption else c("::: {custom-style=\"Image Caption\"}", caption, ":::"), "")
}
