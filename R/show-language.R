# Sentences in the reader's language. The words of a language are data: inst/report/words-<language>.yml holds headings, captions, columns and
# verdicts, and under `sentences` each English sentence with {1}, {2}, ... where names and numbers stand, beside the same in that
# language; `phrases` are what such a place may hold. What a language lacks stays English.

# Texts in the language of these words; decimals as it writes them.
said_in <- function(text, words) {
  if (length(text) == 0 || (length(words$sentences) == 0 && is.null(words$decimal))) {
    return(text)
  }
  catalogue <- sentence_catalogue(words)
  vapply(as.character(text), function(one) if (is.na(one)) NA_character_ else say_one(one, catalogue, words), "", USE.NAMES = FALSE)
}

# What a language lacks stays English.
report_words <- function(language) {
  read <- function(one) yaml::read_yaml(
    system.file("report", paste0("words-", one, ".yml"), package = "scalewort", mustWork = TRUE), eval.expr = FALSE)
  words <- read("en")
  if (language != "en") words <- utils::modifyList(words, read(language))
  words$language <- language
  words
}

say_one <- function(text, catalogue, words) {
  if (NROW(catalogue) == 0) {
    return(as_written(text, words))
  }
  parts <- strsplit(text, "(?<=[a-z0-9)\"%\\]][.!?]) (?=[A-Z0-9\"])", perl = TRUE)[[1]]
  said <- lapply(parts, function(part) {
    known <- match_sentence(part, catalogue, words)
    if (!is.null(known)) known else if (is_sentence(part) && is.null(words$phrases[[part]])) part else say_phrases(part, words)
  })
  as_written(paste(unlist(said), collapse = " "), words)
}

# Decimals and quotes as the language writes them.
as_written <- function(text, words) {
  text <- with_decimals(text, words$decimal)
  if (is.null(words$quotes)) text else gsub("\"([^\"]*)\"", paste0(words$quotes[1], "\\1", words$quotes[2]), text)
}

# A sentence the catalogue lacks stays whole: half of each language is harder to read than one of them.
is_sentence <- function(text) {
  grepl("[a-z0-9)\"%][.!?]$", text) && length(strsplit(text, " ", fixed = TRUE)[[1]]) > 3
}

# Templates as patterns, the most literal first; made once for each language.
sentence_catalogue <- function(words) {
  known <- catalogues[[words$language]]
  if (!is.null(known)) {
    return(known)
  }
  if (length(words$sentences) == 0) {
    return(NULL)
  }
  from <- names(words$sentences)
  place <- "[{][0-9]+[}]"
  literal <- lapply(strsplit(from, place), function(parts) if (length(parts) == 0) "" else parts)
  marks <- regmatches(from, gregexpr(place, from))
  escape <- function(x) gsub("([][{}()+*^$|\\?.])", "\\\\\\1", x)
  pattern <- mapply(function(parts, marks) {
    parts <- c(parts, rep("", length(marks) + 1 - length(parts)))
    paste0("^", paste0(escape(parts), c(rep("(.+?)", length(marks)), ""), collapse = ""), "$")
  }, literal, marks)
  out <- data.frame(pattern = pattern, to = unlist(words$sentences), core = vapply(literal, function(x) x[which.max(nchar(x))], ""),
    marks = vapply(marks, function(own) paste(gsub("[{}]", "", own), collapse = " "), ""), size = vapply(literal, function(x) sum(nchar(x)), 0L))
  out <- out[order(-out$size), ]
  catalogues[[words$language]] <- out
  out
}

catalogues <- new.env()

match_sentence <- function(text, catalogue, words) {
  for (i in which(vapply(catalogue$core, grepl, TRUE, x = text, fixed = TRUE))) {
    found <- regmatches(text, regexec(catalogue$pattern[i], text, perl = TRUE))[[1]]
    if (length(found) == 0) next
    out <- catalogue$to[i]
    marks <- strsplit(catalogue$marks[i], " ")[[1]]
    for (k in seq_along(marks)) {
      own <- words$sentences[[found[k + 1]]]
      out <- gsub(paste0("{", marks[k], "}"), if (is.null(own)) say_phrases(found[k + 1], words) else own, out, fixed = TRUE)
    }
    return(out)
  }
  NULL
}

# Known phrases within a text, as whole words, the longest first; words in quotes are somebody's own.
say_phrases <- function(text, words) {
  if (grepl("^\"[^\"]*\"$", text)) {
    return(text)
  }
  phrases <- words$phrases
  for (phrase in names(phrases)[order(-nchar(names(phrases)))]) {
    if (grepl(phrase, text, fixed = TRUE)) {
      text <- gsub(paste0("(?<![[:alnum:]_])", gsub("([][{}()+*^$|\\?.])", "\\\\\\1", phrase), "(?![[:alnum:]_])"), phrases[[phrase]], text,
        perl = TRUE)
    }
  }
  text
}

# 3.45 and .83 as 3,45 and 0,83; versions, names and dates stay.
with_decimals <- function(text, decimal) {
  if (is.null(decimal)) {
    return(text)
  }
  text <- gsub("(?<![[:alnum:]_.])(-?)\\.([0-9]+)(?![[:alnum:]_]|\\.[0-9])", paste0("\\10", decimal, "\\2"), text, perl = TRUE)
  gsub("(?<![[:alnum:]_.])(-?[0-9]+)\\.([0-9]+)(?![[:alnum:]_]|\\.[0-9])", paste0("\\1", decimal, "\\2"), text, perl = TRUE)
}

# A figure whose title, axes, captions, legends, panels and remarks are in the language of these words. What a figure is made of is
# shared by its copies, hence changed in copies only.
figure_in <- function(figure, words) {
  if (length(words$sentences) == 0 && is.null(words$decimal)) {
    return(figure)
  }
  for (name in intersect(c("title", "subtitle", "caption", "x", "y", "alt", "colour", "shape", "fill", "linetype"), names(figure$labels))) {
    label <- figure$labels[[name]]
    if (is.character(label)) figure$labels[[name]] <- said_in(gsub("\n", " ", label), words)
  }
  if (is.character(figure$labels$subtitle)) figure$labels$subtitle <- paste(strwrap(figure$labels$subtitle, 90), collapse = "\n")
  said <- function(text) said_in(text, words)
  figure$scales <- figure$scales$clone()
  figure$scales$scales <- lapply(figure$scales$scales, legend_in, said = said)
  figure$facet <- panels_in(figure$facet, said)
  figure$layers <- lapply(figure$layers, remark_in, said = said)
  figure
}

panels_in <- function(facet, said) {
  ggplot2::ggproto(NULL, facet, params = utils::modifyList(facet$params, list(labeller = ggplot2::as_labeller(said))))
}

legend_in <- function(scale, said) {
  if (!inherits(scale, "ScaleDiscrete") || any(c("x", "y") %in% scale$aesthetics) || is.function(scale$labels) || is.null(scale$labels)) {
    return(scale)
  }
  scale <- scale$clone()
  if (is.character(scale$name)) scale$name <- said(scale$name)
  scale$labels <- if (is.character(scale$labels)) stats::setNames(said(scale$labels), names(scale$labels)) else said
  scale
}

# Text of several words in a figure is a remark, one word is a name.
remark_in <- function(layer, said) {
  is_remark <- function(label) is.character(label) && any(grepl("[a-z] ", label))
  own <- layer$aes_params$label
  if (is_remark(own)) {
    return(ggplot2::ggproto(NULL, layer, aes_params = utils::modifyList(layer$aes_params, list(label = said(own)))))
  }
  label <- if (is.data.frame(layer$data)) layer$data[["label"]]
  if (is_remark(label)) ggplot2::ggproto(NULL, layer, data = transform(layer$data, label = said(label))) else layer
}
