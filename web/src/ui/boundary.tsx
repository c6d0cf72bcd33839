import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { Component, type ReactNode } from "react";
import { Notice } from "./parts";
import { t } from "../texts/texts";

/** Boundary keeps a mistake in one part from taking the page along: it says so, and
 * offers to try again or to reload. What was entered is saved or kept in the browser. At
 * another place it begins anew. */
export class Boundary extends Component<{ part: string; at: string; children: ReactNode }, { error?: Error }> {
  state: { error?: Error } = {};
  static getDerivedStateFromError = (error: Error) => ({ error });

  componentDidUpdate(before: { at: string }) {
    if (before.at !== this.props.at && this.state.error) this.setState({ error: undefined });
  }

  render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    const old = /dynamically imported module|module script failed/i.test(error.message);
    return (
      <Flex align="center" justify="center" p="20px" minH="120px" data-testid="broken">
        <Notice tone="clay" maxW="460px">
          <Box>
            <Text>
              {old
                ? t("The application was renewed on the server meanwhile.")
                : t("{part} cannot be shown: {message}", { part: this.props.part, message: error.message })}
            </Text>
            <Text mt="4px">
              {t("Nothing is lost: what you entered is saved, or kept in this browser until it is.")}
            </Text>
            <Flex gap="8px" mt="8px">
              {!old && (
                <Button size="xs" variant="outline" onClick={() => this.setState({ error: undefined })}>
                  {t("Try again")}
                </Button>
              )}
              <Button size="xs" onClick={() => location.reload()}>
                {t("Reload")}
              </Button>
            </Flex>
          </Box>
        </Notice>
      </Flex>
    );
  }
}
