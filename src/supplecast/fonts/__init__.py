"""Fonts for lettering: Barlow and Barlow Semi Condensed, under the licence beside them."""
