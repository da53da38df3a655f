// @vitest-environment jsdom
import { server } from "./server";
import { screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Bar } from "../src/app/Bar";
import { show } from "./page";

describe("the server's disk", () => {
  it("is told to everybody once nothing may be stored any more", async () => {
    server.on("GET /api/server", { disk: "full", left: "12 MB" });
    show(<Bar>Board</Bar>);
    expect(await screen.findByText(/disk is full \(12 MB left\)/)).toBeTruthy();
  });

  it("is not the technician's trouble while it only runs low", async () => {
    server.on("GET /api/server", { disk: "low", left: "4.1 GB" });
    show(<Bar>Board</Bar>);
    await waitFor(() => expect(server.got("GET", "/api/server")).toHaveLength(1));
    expect(screen.queryByRole("status")).toBeNull();
  });
});
