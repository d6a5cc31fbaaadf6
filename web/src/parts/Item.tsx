import styled from "styled-components";
import { hairline } from "../design/tokens";

/** A line with something to do at its end. */
export const Item = styled.li`display: flex; flex-wrap: wrap; gap: 4px 12px; justify-content: space-between; align-items: center; border-bottom: ${hairline}; padding: 2px 0;`;
