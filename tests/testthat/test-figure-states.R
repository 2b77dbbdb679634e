# Figures are sentences: each state of a table has its look. The geometry of a layer is found by its class, so that a layer more does not move it.
layer_of <- function(figure, geom, which = 1) {
  at <- which(vapply(figure$layers, function(layer) inherits(layer$geom, geom), NA))[which]
  ggplot2::layer_data(figure, at)
}
explored <- function() sw_explore(sw_demo("plotholders"), 4, starts = 5)

test_that("loadings are filled, bold and drawn as paths where they reach the bound", {
  x <- explored()
  strong <- sum(abs(x$parts$pattern) >= .4)
  expect_equal(sum(layer_of(ggplot2::autoplot(x), "GeomCol")$fill == "#0B4F54"), strong)
  expect_equal(sum(layer_of(ggplot2::autoplot(x, "heat"), "GeomText")$fontface == "bold"), strong)
  expect_equal(nrow(layer_of(ggplot2::autoplot(x, "paths"), "GeomSegment")), strong)
})

test_that("paths that are not significant are dashed, arcs of correlations too", {
  layout <- core("path_layout")(sw_structure(f = c("a", "b"), g = c("c", "d")))
  loadings <- data.frame(factor = c("f", "g"), item = c("a", "c"), standardised = c(.5, .4), p.value = c(.051, .049))
  expect_equal(core("path_loadings")(loadings, layout)$line, c("dashed", "solid"))
  links <- data.frame(factor = c("f", "f"), with = c("g", "g"), correlation = c(.1, .2), p.value = c(.051, .049))
  expect_equal(core("path_links")(links, layout)$line, c("dashed", "solid"))
})

test_that("of residuals beyond the bound those are bold that chance does not make", {
  held <- sw_confirm(sw_demo("plotholders"))
  missed <- held$tables$residual_correlations
  missed$verdict <- rep_len(c("missed", "near"), nrow(missed))
  missed <- missed[order(-abs(missed$residual)), ]
  missed$verdict[1:2] <- c("missed", "near")
  held$tables$residual_correlations <- missed
  held$limits <- sw_limits(residual_r = abs(missed$residual[3]))
  expect_equal(sort(layer_of(ggplot2::autoplot(held, "residuals"), "GeomText")$fontface), c("bold", "plain"))
})

test_that("options: the right one stands out, wrong ones are apart, bars are centred on the middle option", {
  quiz <- sw_option_curves(sw_demo("plantcare"))
  figure <- ggplot2::autoplot(quiz, items = "q01")
  right <- unique(quiz$tables$curves$option[quiz$tables$curves$item == "q01" & quiz$tables$curves$right])
  lines <- layer_of(figure, "GeomLine")
  expect_equal(length(unique(lines$group[lines$linewidth == 1.4])), 1)
  drawn <- lines$y[lines$linewidth == 1.4]
  expect_equal(drawn, quiz$tables$curves$share[quiz$tables$curves$item == "q01" & quiz$tables$curves$option == right])
  screening <- sw_screen(sw_demo("plantcare"))
  bars <- layer_of(ggplot2::autoplot(screening, "histograms"), "GeomCol")
  expect_equal(sum(bars$fill == "#0B4F54"), length(unique(screening$tables$options$item)))
  piece <- core("option_bar")(data.frame(share = c(.1, .2, .4, .2, .1)), 5)
  expect_equal(piece$from, c(-.5, -.4, -.2, .2, .4))
  expect_equal(core("option_bar")(data.frame(share = c(.7, .3)), 2)$from, c(-.7, 0))
})

test_that("bias: what is flagged is drawn, and each panel says of its item what the table says", {
  bias <- sw_dif(sw_demo("plotholders"), by = "district")
  flagged <- bias$tables$items$item[bias$tables$items$flagged]
  panels <- function(...) levels(ggplot2::autoplot(bias, ...)$data$panel)
  expect_equal(sub(":.*$", "", panels()), flagged)
  expect_false(any(grepl("not flagged", panels())))
  other <- setdiff(bias$tables$items$item, flagged)[1]
  expect_match(panels(items = other), "not flagged", fixed = TRUE)
})

test_that("the map of gaps has every case with one; flags of people and what raises alpha are counted as the tables do", {
  screening <- sw_screen(sw_demo("plotholders"))
  cells <- screening$parts$missing_cells
  expect_equal(nrow(layer_of(ggplot2::autoplot(screening, "missing"), "GeomTile")), sum(cells))
  people <- sw_answering(sw_demo("plotholders"))
  expect_match(ggplot2::get_alt_text(ggplot2::autoplot(people)), paste0("; ", length(people$parts$flagged_rows), " are named as careless"),
    fixed = TRUE)
  alpha <- sw_reliability(sw_demo("plotholders"))
  change <- alpha$tables$items$change[!is.na(alpha$tables$items$alpha_without)]
  expect_equal(sum(layer_of(ggplot2::autoplot(alpha, "items"), "GeomPoint")$shape == 17), sum(change > 0))
})

test_that("loadings and intercepts of occasions are those of the configural step", {
  x <- sw_invariance(sw_demo("plotholders"), by = "district", missing = "listwise")
  table <- x$tables$parameters
  own <- table[table$step == "configural" & table$kind %in% c("loading", "intercept"), ]
  drawn <- layer_of(ggplot2::autoplot(x, "parameters"), "GeomPoint")
  expect_equal(sort(drawn$x), sort(own$estimate))
})
